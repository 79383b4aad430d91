import { deviceOf } from '../reach/graph.ts';
import { type Edit, nameOf, type SimpleEdit } from '../setup/edits.ts';
import { DEFAULT_DEVICE, type Setup } from '../setup/schema.ts';
import { gainText } from '../words/figures.ts';

/**
 * Says what a creator must do by hand, on a real machine, so that an edit becomes true: one line for each step, empty for
 * what Northfen does by itself (levels, wishes, sends). `setup` is the one that the edit is applied to.
 */
export function handworkOf(setup: Setup, edit: Edit): string[] {
  if (edit.edit === 'batch') {
    const fresh = freshNames(edit.edits);
    const steps = edit.edits.flatMap((one) =>
      stepsOf(setup, one, (id) => fresh.get(id) ?? nameOf(setup, id)),
    );
    return [...new Set(steps)];
  }
  return stepsOf(setup, edit, (id) => nameOf(setup, id));
}

function stepsOf(setup: Setup, edit: SimpleEdit, name: (id: string) => string): string[] {
  switch (edit.edit) {
    case 'updateSource': {
      const steps: string[] = [];
      const { into, machineInto, volumePercent } = edit.values;
      const source = setup.sources.find(({ id }) => id === edit.id);
      const machine = name(source?.machine ?? '');
      if (machineInto !== undefined)
        steps.push(`In the sound settings of ${machine}, give ${name(edit.id)} “${name(machineInto)}”.`);
      if (edit.clear?.includes('machineInto'))
        steps.push(`In the sound settings of ${machine}, leave ${name(edit.id)} on the default output.`);
      if (edit.clear?.includes('stuck')) steps.push(...awayAndBack(setup, source, name));
      if (into === DEFAULT_DEVICE) steps.push(`In ${name(edit.id)}, choose the default output.`);
      else if (into !== undefined) steps.push(`In ${name(edit.id)}, choose “${name(into)}” as the output.`);
      if (volumePercent !== undefined)
        steps.push(`In ${name(edit.id)}, set the volume to ${volumePercent} %.`);
      return steps;
    }
    case 'addDevice':
      return [
        `On ${name(edit.device.machine)}, add ${edit.device.kind === 'virtual' ? 'a virtual device' : 'a device'} “${edit.device.name}”.`,
      ];
    case 'addLink':
      return [`Connect ${name(edit.link.from)} to ${name(edit.link.to)} (${edit.link.name}).`];
    case 'removeLink':
      return [
        isOverNetwork(setup, edit.id)
          ? `Stop sending over “${name(edit.id)}”.`
          : `Unplug “${name(edit.id)}”.`,
      ];
    case 'updateLink':
      return [
        ...[edit.values.from, edit.values.to].flatMap((end) =>
          end
            ? isOverNetwork(setup, edit.id)
              ? [`Set “${name(edit.id)}” to “${name(end)}” instead.`]
              : [`Unplug one end of “${name(edit.id)}”.`, `Plug it into “${name(end)}” instead.`]
            : [],
        ),
        ...(edit.values.isolated ? [`Put an isolator into the line “${name(edit.id)}”.`] : []),
        ...(edit.values.converted
          ? [`Let the far end of “${name(edit.id)}” follow the sender’s clock, or convert.`]
          : []),
      ];
    case 'updateDevice':
      return [
        ...(edit.values.does
          ? [`On “${name(edit.id)}”, leave on: ${edit.values.does.join(', ') || 'nothing'}.`]
          : []),
        ...(edit.values.follows === undefined
          ? []
          : [
              `Drive “${name(edit.id)}” together with “${name(edit.values.follows)}”, and let “${name(edit.values.follows)}” lead the clock.`,
            ]),
        ...(edit.values.volumeDb === undefined
          ? []
          : [`Set the volume of “${name(edit.id)}” to ${gainText(edit.values.volumeDb)} dB.`]),
      ];
    case 'addMix':
      return [
        `On ${name(edit.mix.machine)}, make a mix “${edit.mix.name}” of ${edit.mix.inputs.map(({ from }) => name(from)).join(', ')}.`,
      ];
    case 'updateMix':
      if (edit.clear?.includes('listenedOn')) return [`Stop listening in on the mix “${name(edit.id)}”.`];
      return edit.values.into
        ? [`Let the mix “${name(edit.id)}” play into ${edit.values.into.map(name).join(', ') || 'nothing'}.`]
        : [];
    case 'removeMix':
      return [`Remove the mix “${name(edit.id)}”.`];
    case 'setMixInput': {
      const mix = `in the mix “${name(edit.mix)}”`;
      if (edit.values === null) return [`Take ${name(edit.from)} out ${mix.replace('in the', 'of the')}.`];
      const { muted, gainDb } = edit.values;
      const isOpen = setup.mixes
        .find(({ id }) => id === edit.mix)
        ?.inputs.some((one) => one.from === edit.from && !one.muted);
      if (muted) return [`Mute ${name(edit.from)} ${mix}.`];
      if (isOpen)
        return gainDb === undefined ? [] : [`Set ${name(edit.from)} to ${gainText(gainDb)} dB ${mix}.`];
      return [
        gainDb === undefined
          ? `Open ${name(edit.from)} ${mix}.`
          : `Open ${name(edit.from)} ${mix}, at ${gainText(gainDb)} dB.`,
      ];
    }
    case 'addPickup':
      return [`In the recorder, add a pickup of ${name(edit.pickup.takes)}.`];
    case 'removePickup':
      return [`In the recorder, remove ${name(edit.id)}.`];
    case 'updatePickup':
      return [
        ...(edit.values.takes
          ? [`In the recorder, let ${name(edit.id)} take ${name(edit.values.takes)}.`]
          : []),
        ...(edit.values.pairs
          ? [`In the recorder, let ${name(edit.id)} take ${2 * edit.values.pairs} channels.`]
          : []),
        ...(edit.clear?.includes('asksFor') ? calledByName(setup, edit.id) : []),
        ...pickupSwitches(edit, name),
        ...(edit.clear?.includes('scenes') || edit.values.scenes
          ? [
              `In the recorder, let ${name(edit.id)} sound in ${edit.values.scenes ? edit.values.scenes.map(name).join(', ') : 'every scene'}.`,
            ]
          : []),
      ];
    case 'setRecorder':
      return edit.values.monitorDevice
        ? [`In the recorder, choose “${name(edit.values.monitorDevice)}” as the device to play back on.`]
        : [];
    case 'updateScene':
      return edit.values.groups
        ? [
            `In the recorder, let these groups sound in ${name(edit.id)}: ${edit.values.groups.map(name).join(', ') || 'none'}.`,
          ]
        : [];
    case 'updateMachine':
      return edit.values.defaultOutput
        ? [`On ${name(edit.id)}, make “${name(edit.values.defaultOutput)}” the default output.`]
        : [];
    case 'updateDestination':
      if (edit.values.kind === 'headphones') return [`Wear headphones in place of ${name(edit.id)}.`];
      if (!edit.values.hears) return [];
      if (
        setup.destinations.find(({ id }) => id === edit.id)?.kind === 'loudspeakers' &&
        edit.values.hears.length === 0
      )
        return [`Turn ${name(edit.id)} off.`];
      return setup.destinations.find(({ id }) => id === edit.id)?.kind === 'friends'
        ? [
            `In the chat app, choose ${edit.values.hears.map(name).join(', ') || 'nothing'} as the microphone.`,
          ]
        : [`Let ${name(edit.id)} hear ${edit.values.hears.map(name).join(', ') || 'nothing'}.`];
    default:
      return [];
  }
}

/** A pickup takes an app under the name that it has. */
function calledByName(setup: Setup, id: string): string[] {
  const taken = setup.pickups.find((pickup) => pickup.id === id)?.takes;
  const source = setup.sources.find((one) => one.id === taken);
  return source ? [`In the recorder, take the app “${source.app ?? source.name}” instead.`] : [];
}

/** What makes a stuck app sound again. */
function awayAndBack(
  setup: Setup,
  source: Setup['sources'][number] | undefined,
  name: (id: string) => string,
): string[] {
  const device = source && deviceOf(setup, source);
  return source
    ? [
        `Move the output of ${source.app ?? source.name} to another device, and back${device ? ` to “${name(device)}”` : ''}.`,
      ]
    : [];
}

/** Muting of a pickup, and playing it back. */
function pickupSwitches(
  { id, values, clear }: Extract<SimpleEdit, { edit: 'updatePickup' }>,
  name: (id: string) => string,
): string[] {
  const { muted, monitoring } = values;
  return [
    ...(muted === undefined ? [] : [`In the recorder, ${muted ? 'mute' : 'unmute'} ${name(id)}.`]),
    ...(clear?.includes('monitoring') ? [`In the recorder, stop playing ${name(id)} back.`] : []),
    ...(monitoring === undefined
      ? []
      : [
          monitoring === 'heard'
            ? `In the recorder, play ${name(id)} back, and send it to no track.`
            : `In the recorder, play ${name(id)} back, and send it to its tracks.`,
        ]),
  ];
}

function isOverNetwork(setup: Setup, link: string): boolean {
  return setup.links.find(({ id }) => id === link)?.kind === 'network';
}

/** The names of things that a batch itself brings. */
function freshNames(edits: SimpleEdit[]): Map<string, string> {
  const names = new Map<string, string>();
  for (const edit of edits) {
    if (!edit.edit.startsWith('add') || !('id' in edit) || edit.id === undefined) continue;
    const thing = Object.values(edit).find((value) => typeof value === 'object' && value !== null);
    const name = (thing as { name?: string } | undefined)?.name;
    if (name) names.set(edit.id, name);
  }
  return names;
}
