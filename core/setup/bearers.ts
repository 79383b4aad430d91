import { type Processing, withoutKey } from '../processors/processing.ts';
import type { Setup } from './schema.ts';

/**
 * What can bear a processing: a source (everybody gets it so), one leg (a send, an input of a mix), or a whole: everything
 * that a mix takes in, that a pickup takes, or that a track or a destination gets.
 */
export type Bearer =
  | { kind: 'source' | 'mix' | 'pickup' | 'track' | 'destination'; id: string }
  | { kind: 'send' | 'input'; from: string; to: string };

/** A processing, with what bears it and the field of the setup that it is in. */
export interface Borne {
  bearer: Bearer;
  field: string;
  processing: Processing;
}

/** Returns every processing of a setup. */
export function everyProcessing(setup: Setup): Borne[] {
  const wholes = (kind: Whole['kind']) =>
    (setup[LISTS[kind]] as Processed[]).map(({ id, processing }, i) => ({
      bearer: { kind, id },
      field: `${LISTS[kind]}[${i}]`,
      processing,
    }));
  const all = [
    ...wholes('source'),
    ...wholes('mix'),
    ...wholes('pickup'),
    ...wholes('track'),
    ...wholes('destination'),
    ...setup.sends.map(({ pickup, to, processing }, i) => ({
      bearer: { kind: 'send' as const, from: pickup, to },
      field: `sends[${i}]`,
      processing,
    })),
    ...setup.mixes.flatMap(({ id, inputs }, i) =>
      inputs.map(({ from, processing }, k) => ({
        bearer: { kind: 'input' as const, from, to: id },
        field: `mixes[${i}].inputs[${k}]`,
        processing,
      })),
    ),
  ];
  return all.flatMap(({ processing, ...one }) => (processing ? [{ ...one, processing }] : []));
}

interface Processed {
  id: string;
  processing?: Processing;
}

/** Returns what is done to a thing; nothing where it is not there. */
export function processingOf(setup: Setup, bearer: Bearer): Processing {
  return (isLeg(bearer) ? legOf(setup, bearer) : wholeOf(setup, bearer))?.processing ?? [];
}

const LISTS = {
  source: 'sources',
  mix: 'mixes',
  pickup: 'pickups',
  track: 'tracks',
  destination: 'destinations',
} as const;

/** Returns the setup with nothing in it that listens to a source. */
export function withoutListeners(setup: Setup, source: string): Setup {
  const deaf = <Thing extends { processing?: Processing }>(thing: Thing): Thing => {
    if (!thing.processing) return thing;
    const processing = withoutKey(thing.processing, source);
    return processing === thing.processing ? thing : { ...thing, processing };
  };
  return {
    ...setup,
    sources: setup.sources.map(deaf),
    sends: setup.sends.map(deaf),
    pickups: setup.pickups.map(deaf),
    tracks: setup.tracks.map(deaf),
    destinations: setup.destinations.map(deaf),
    mixes: setup.mixes.map((mix) => deaf({ ...mix, inputs: mix.inputs.map(deaf) })),
  };
}

type Leg = Extract<Bearer, { from: string }>;
type Whole = Exclude<Bearer, Leg>;

/** Tells whether it is one leg of a way. */
export function isLeg(bearer: Bearer): bearer is Leg {
  return bearer.kind === 'send' || bearer.kind === 'input';
}

/** The send or the input of a mix that a leg is. */
export function legOf(setup: Setup, { kind, from, to }: Leg) {
  return kind === 'send'
    ? setup.sends.find((send) => send.pickup === from && send.to === to)
    : setup.mixes.find((mix) => mix.id === to)?.inputs.find((input) => input.from === from);
}

function wholeOf(setup: Setup, { kind, id }: Whole): Processed | undefined {
  return (setup[LISTS[kind]] as Processed[]).find((one) => one.id === id);
}
