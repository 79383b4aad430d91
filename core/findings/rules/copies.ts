import type { Destination } from '../../reach/destinations.ts';
import type { Arrival, Doubling } from '../../reach/reach.ts';
import type { Source } from '../../setup/schema.ts';
import { levelWords } from '../../words/figures.ts';
import { type Finding, finding, placeName } from '../finding.ts';
import { areHeardAsCopies, ECHO_FROM_MS } from '../limits.ts';
import { cellsOf, inScenesText, type Survey, scenesOfAll } from '../survey.ts';

/** A sound arrives more than once: louder, hollow, or as an echo. */
export function* copies(survey: Survey): Generator<Finding> {
  for (const { source, destination } of cellsOf(survey)) {
    const groups = survey.inScenes(source, destination).filter(({ arrival }) => arrival?.doubling);
    const loud = groups.filter(({ arrival }) => arrival && areHeardAsCopies(arrival));
    const told = loud.length > 0 ? loud : groups;
    const arrival = told[0]?.arrival;
    const doubling = arrival?.doubling;
    if (!arrival || !doubling) continue;
    const scenes = scenesOfAll(survey, told);
    yield finding(
      'doubled',
      loud.length > 0 ? 'warn' : 'note',
      () =>
        `${inScenesText(survey, scenes)}${source.name} arrives at ${placeName(destination)} ${times(arrival.copies)}${what(survey, source, destination, arrival, doubling)}.`,
      { source: source.id, destination: destination.id, arrivals: [arrival], scenes },
    );
  }
}

function what(
  { intent }: Survey,
  source: Source,
  { id }: Destination,
  arrival: Arrival,
  doubling: Doubling,
): string {
  const { gainChangeDb, apartMs, belowDb, firstNotchHz } = doubling;
  if (!areHeardAsCopies(arrival))
    return `: the second is ${belowDb.toFixed(0)} dB below the first, and is hardly heard`;
  if (apartMs >= ECHO_FROM_MS) return `: it comes again ${apartMs.toFixed(0)} ms later, as an echo`;
  const change = `${Math.abs(gainChangeDb).toFixed(1)} dB ${gainChangeDb < 0 ? 'quieter' : 'louder'} than one copy`;
  const wishDb = intent.at(source.id, id);
  const off = wishDb === null ? 0 : arrival.gainDb - wishDb;
  const wish =
    wishDb === null
      ? ''
      : `; that is ${Math.abs(off).toFixed(1)} dB ${off < 0 ? 'below' : 'above'} what you want`;
  if (gainChangeDb < -1)
    return `, and the copies take each other away: ${levelWords(arrival.gainDb)}, ${change}${wish}`;
  const hollow =
    firstNotchHz === null ? '' : `, and it sounds hollow (first notch at ${hertz(firstNotchHz)})`;
  return `: ${levelWords(arrival.gainDb)}, ${change}${wish}${hollow}`;
}

/** Says how many times. */
export function times(count: number): string {
  return count === 2 ? 'twice' : `${count} times`;
}

function hertz(value: number): string {
  return value >= 1000 ? `${(value / 1000).toFixed(1)} kHz` : `${value.toFixed(0)} Hz`;
}
