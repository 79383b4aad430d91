import { reachOf } from '../reach/reach.ts';
import { type Edit, EditError, nameOf, type SimpleEdit } from '../setup/edits.ts';
import { newId } from '../setup/ids.ts';
import type { Setup } from '../setup/schema.ts';

/**
 * Returns the edit that gives the friends a mix-minus: everything that their chat is sent now but their own voices. Where
 * nothing is sent yet, a mix of the microphones is made for them.
 * @throws {EditError} when their chat hears no device, or there is nothing that could be sent
 */
export function mixMinus(setup: Setup, destinationId: string): Edit {
  const destination = setup.destinations.find((one) => one.id === destinationId);
  if (!destination?.hears?.length)
    throw new EditError('hears', 'choose the device that their chat takes as its microphone first');
  const reach = reachOf(setup);
  const voices = new Set(
    setup.sources.filter((source) => source.kind === 'voice chat').map((source) => source.id),
  );
  const leading = new Set(
    setup.sources.flatMap(({ id }) => reach.at(id, destinationId)?.places.flat() ?? []),
  );
  const edits: SimpleEdit[] = setup.mixes
    .filter((mix) => leading.has(mix.id))
    .flatMap((mix) =>
      mix.inputs
        .filter(
          ({ from, muted }) =>
            !muted && (voices.has(from) || reach.sourcesAt(from).some((id) => voices.has(id))),
        )
        .map(
          (input): SimpleEdit => ({
            edit: 'setMixInput',
            mix: mix.id,
            from: input.from,
            values: { muted: true },
          }),
        ),
    );
  if (edits.length === 0 && leading.size === 0) edits.push(newMix(setup, destination.hears[0]));
  if (edits.length === 0)
    throw new EditError(
      'mix',
      `${destination.name} do not hear themselves: their mix is a mix-minus already`,
    );
  return { edit: 'batch', label: `make a mix-minus for ${destination.name}`.slice(0, 120), edits };
}

/** A mix of the microphones of the machine, into the device that the chat takes. */
function newMix(setup: Setup, deviceId: string): SimpleEdit {
  const device = setup.devices.find((one) => one.id === deviceId);
  const microphones = setup.sources.filter(
    (source) => source.kind === 'microphone' && source.machine === device?.machine,
  );
  if (device?.direction !== 'out' || microphones.length === 0)
    throw new EditError(
      'mix',
      `nothing leads to ${nameOf(setup, deviceId)} yet; give it a link, or choose a virtual device on the machine of your microphone`,
    );
  return {
    edit: 'addMix',
    id: newId(setup, 'Mix for the friends'),
    mix: {
      name: 'Mix for the friends',
      machine: device.machine,
      inputs: [...new Set(microphones.map((source) => source.into ?? source.id))].map((from) => ({
        from,
        gainDb: 0,
      })),
      into: [deviceId],
    },
  };
}
