import { Plus } from 'lucide-react';
import { nameOf } from '../../../core/setup/edits.ts';
import type { Setup } from '../../../core/setup/schema.ts';
import type { Group, Scene } from '../../../core/setup/wiring.ts';
import { Button, NameField, RemoveButton } from '../../parts/controls.tsx';
import { useSetup } from '../../setupContext.tsx';
import { Part, Tick } from './parts.tsx';

/** The scenes of the broadcast with the groups of pickups that sound in each; a pickup in no group says so itself. */
export function SceneList() {
  const { setup, actions } = useSetup();
  const { groups = [] } = setup;
  return (
    <Part
      id="scenes"
      title="Scenes of the broadcast"
      aside={
        <span className="flex gap-2">
          <Button
            onClick={() =>
              actions.edit({ edit: 'addScene', scene: { name: `Scene ${setup.scenes.length + 1}` } })
            }
          >
            <Plus size={14} /> Scene
          </Button>
          {setup.scenes.length > 0 && (
            <Button
              title="Pickups that go into scenes together"
              onClick={() =>
                actions.edit({ edit: 'addGroup', group: { name: `Group ${groups.length + 1}`, pickups: [] } })
              }
            >
              <Plus size={14} /> Group
            </Button>
          )}
        </span>
      }
    >
      {setup.scenes.length === 0 && <p className="py-2 text-soft">None: every pickup sounds all the time.</p>}
      <ul className="flex flex-wrap gap-2 py-2">
        {setup.scenes.map((scene) => (
          <SceneItem key={scene.id} scene={scene} groups={groups} />
        ))}
      </ul>
      {groups.length > 0 && (
        <ul aria-label="Groups of pickups" className="space-y-1 border-t border-rule py-2">
          {groups.map((group) => (
            <GroupItem key={group.id} setup={setup} group={group} />
          ))}
        </ul>
      )}
    </Part>
  );
}

function SceneItem({ scene, groups }: { scene: Scene; groups: Group[] }) {
  const { actions } = useSetup();
  const now = scene.groups ?? [];
  return (
    <li className="border border-rule bg-sheet pl-1">
      <span className="flex items-center">
        <NameField
          value={scene.name}
          label={`Name of the scene ${scene.name}`}
          onChange={(name) => actions.edit({ edit: 'updateScene', id: scene.id, values: { name } })}
          className="w-32"
        />
        <RemoveButton
          label={`Remove the scene ${scene.name}`}
          onClick={() => actions.edit({ edit: 'removeScene', id: scene.id })}
        />
      </span>
      {groups.length > 0 && (
        <span className="flex flex-wrap gap-x-3 px-1 pb-1 text-sm">
          {groups.map(({ id, name }) => (
            <Tick
              key={id}
              checked={now.includes(id)}
              label={`${name} sounds in ${scene.name}`}
              onChange={(on) =>
                actions.edit({
                  edit: 'updateScene',
                  id: scene.id,
                  values: { groups: on ? [...now, id] : now.filter((one) => one !== id) },
                })
              }
            >
              {name}
            </Tick>
          ))}
        </span>
      )}
    </li>
  );
}

function GroupItem({ setup, group }: { setup: Setup; group: Group }) {
  const { actions } = useSetup();
  const { id, name, pickups } = group;
  return (
    <li className="flex flex-wrap items-center gap-x-3 text-sm" data-group={id}>
      <NameField
        value={name}
        label={`Name of the group ${name}`}
        onChange={(next) => actions.edit({ edit: 'updateGroup', id, values: { name: next } })}
        className="w-32"
      />
      {setup.pickups.map((pickup) => {
        const what = nameOf(setup, pickup.id);
        return (
          <Tick
            key={pickup.id}
            checked={pickups.includes(pickup.id)}
            label={`${what} is in ${name}`}
            onChange={(on) =>
              actions.edit({
                edit: 'updateGroup',
                id,
                values: {
                  pickups: on ? [...pickups, pickup.id] : pickups.filter((one) => one !== pickup.id),
                },
              })
            }
          >
            {what}
          </Tick>
        );
      })}
      <RemoveButton
        label={`Remove the group ${name}`}
        onClick={() => actions.edit({ edit: 'removeGroup', id })}
      />
    </li>
  );
}
