import { Plus } from 'lucide-react';
import { Button, NameField, RemoveButton } from '../../parts/controls.tsx';
import { useSetup } from '../../setupContext.tsx';
import { Part } from './parts.tsx';

/** The scenes of the broadcast; which pickups sound in each is set at the pickups. */
export function SceneList() {
  const { setup, actions } = useSetup();
  return (
    <Part
      id="scenes"
      title="Scenes of the broadcast"
      aside={
        <Button
          onClick={() =>
            actions.edit({ edit: 'addScene', scene: { name: `Scene ${setup.scenes.length + 1}` } })
          }
        >
          <Plus size={14} /> Scene
        </Button>
      }
    >
      {setup.scenes.length === 0 && <p className="py-2 text-soft">None: every pickup sounds all the time.</p>}
      <ul className="flex flex-wrap gap-2 py-2">
        {setup.scenes.map((scene) => (
          <li key={scene.id} className="flex items-center border border-rule bg-sheet pl-1">
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
          </li>
        ))}
      </ul>
    </Part>
  );
}
