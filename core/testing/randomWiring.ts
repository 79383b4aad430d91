import fc from 'fast-check';
import { blankSetup } from '../setup/blank.ts';
import { clearanceOf } from '../setup/clearance.ts';
import { brokenRules } from '../setup/rules.ts';
import { DEFAULT_DEVICE, type Setup } from '../setup/schema.ts';

const gainDb = fc.integer({ min: -30, max: 6 });
const delayMs = fc.integer({ min: 0, max: 40 });
const pick = <T>(list: T[]) => fc.constantFrom(...list);

const OUTS = ['a.main', 'a.cable', 'a.line'];
const MIXES = ['mix-1', 'mix-2', 'mix-3'];
const SOURCES = ['s0', 's1', 's2', 's3'];
const PICKED = ['b.in', 'b.main', 's3'];

/**
 * Random setups over two machines that keep the rules: apps on defaults and named devices, mixes that take in sources,
 * devices and each other (loops too), links with latency, pickups of devices and apps with delay and fold, and scenes.
 */
export const randomWiring: fc.Arbitrary<Setup> = fc
  .record({
    into: fc.array(pick([...OUTS, DEFAULT_DEVICE, '']), { minLength: 3, maxLength: 3 }),
    levels: fc.array(gainDb, { minLength: 4, maxLength: 4 }),
    volumes: fc.array(pick([undefined, 100, 40]), { minLength: 4, maxLength: 4 }),
    mixes: fc.array(
      fc.record({
        inputs: fc.uniqueArray(
          fc.record({
            from: pick([...OUTS, ...MIXES, ...SOURCES.slice(0, 3)]),
            gainDb,
            muted: fc.boolean(),
            delayMs,
          }),
          { selector: ({ from }) => from, maxLength: 4 },
        ),
        into: fc.subarray(OUTS),
      }),
      { minLength: 3, maxLength: 3 },
    ),
    links: fc.array(fc.record({ from: pick(OUTS), latencyMs: delayMs }), { maxLength: 3 }),
    pickups: fc.array(
      fc.record({ gainDb, delayMs, mono: fc.boolean(), scenes: fc.option(fc.subarray(['day', 'night'])) }),
      { minLength: 3, maxLength: 3 },
    ),
    sends: fc.array(fc.option(gainDb), { minLength: 12, maxLength: 12 }),
    hears: fc.subarray([...OUTS, 'b.main']),
    wishes: fc.array(fc.option(gainDb), { minLength: 16, maxLength: 16 }),
  })
  .map((values): Setup => {
    const blank = blankSetup('Random wiring');
    const feeds = [...blank.tracks.map(({ id }) => id), 'headphones', 'friends'];
    return {
      ...blank,
      recorder: { machine: 'b' },
      machines: [
        { id: 'a', name: 'A', kind: 'computer', defaultOutput: 'a.main' },
        { id: 'b', name: 'B', kind: 'computer', defaultOutput: 'b.main' },
      ],
      devices: [
        ...OUTS.map((id) => ({
          id,
          name: id,
          machine: 'a',
          direction: 'out' as const,
          kind: 'virtual' as const,
        })),
        { id: 'b.in', name: 'b.in', machine: 'b', direction: 'in', kind: 'physical' },
        { id: 'b.main', name: 'b.main', machine: 'b', direction: 'out', kind: 'physical' },
      ],
      links: values.links.map(({ from, latencyMs }, i) => ({
        id: `link-${i}`,
        name: `Link ${i}`,
        from,
        to: 'b.in',
        kind: 'usb',
        latencyMs,
      })),
      mixes: values.mixes.map((mix, i) => ({
        id: MIXES[i],
        name: MIXES[i],
        machine: 'a',
        into: mix.into,
        inputs: mix.inputs.filter(({ from }) => from !== MIXES[i]),
      })),
      scenes: [
        { id: 'day', name: 'Day' },
        { id: 'night', name: 'Night' },
      ],
      sources: SOURCES.map((id, i) => ({
        id,
        name: id,
        kind: 'game',
        clearance: clearanceOf(i % 2 ? 'own' : 'liveOnly'),
        machine: i === 3 ? 'b' : 'a',
        ...(i === 3 ? { into: DEFAULT_DEVICE } : values.into[i] ? { into: values.into[i] } : {}),
        ...(values.volumes[i] ? { volumePercent: values.volumes[i] } : {}),
        levelDb: values.levels[i],
        media: null,
      })),
      pickups: values.pickups.map(({ scenes, ...pickup }, i) => ({
        id: `pickup-${i}`,
        takes: PICKED[i],
        ...pickup,
        ...(scenes ? { scenes } : {}),
      })),
      sends: values.sends.flatMap((gain, i) =>
        gain === null ? [] : [{ pickup: `pickup-${i % 3}`, to: feeds[Math.floor(i / 3)], gainDb: gain }],
      ),
      destinations: blank.destinations.map((one) =>
        one.id === 'headphones' ? { ...one, hears: values.hears } : one,
      ),
      intent: values.wishes.flatMap((gain, i) =>
        gain === null
          ? []
          : [
              {
                source: SOURCES[i % 4],
                destination: blank.destinations[Math.floor(i / 4)].id,
                gainDb: gain,
              },
            ],
      ),
    };
  })
  .filter((setup) => brokenRules(setup).length === 0);
