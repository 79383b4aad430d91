import type { Destination } from '../../reach/destinations.ts';
import type { Arrival } from '../../reach/reach.ts';
import { inputDriftPpm } from '../../setup/clocks.ts';
import { nameOf } from '../../setup/edits.ts';
import type { Link } from '../../setup/wiring.ts';
import { hourlyDriftText, listed } from '../../words/figures.ts';
import { type Finding, finding, placeName } from '../finding.ts';
import { driftPpm, type LineFault, lineFaults, rateOf } from '../lineFaults.ts';
import type { Survey } from '../survey.ts';

/** Sentences name as many sources at most. */
const MOST_NAMES = 3;

/** Links between machines that hum, drift, or convert nothing, where something comes over them. */
export function* lines(survey: Survey): Generator<Finding> {
  const { setup } = survey;
  const faulty = setup.links.flatMap((link) => lineFaults(setup, link).map((fault) => ({ link, fault })));
  if (faulty.length === 0) return;
  const carried = carriedByLink(survey);
  for (const { link, fault } of faulty) {
    const over = carried.get(link.id);
    if (!over) continue;
    const { sources, destination, arrival } = over;
    const names = listed(
      sources.map((id) => nameOf(setup, id)),
      MOST_NAMES,
    );
    yield finding(fault, 'warn', () => sentence(survey, fault, link, names, destination), {
      ...{ source: sources[0], destination: destination.id, arrivals: [arrival], detail: link.id },
    });
  }
}

/** Inputs that run on a clock of their own, where something comes in by them and arrives somewhere. */
export function* ownClocks({ setup, reach }: Survey): Generator<Finding> {
  for (const device of setup.devices) {
    const ppm = inputDriftPpm(setup, device);
    if (ppm === 0) continue;
    const sources = reach
      .sourcesAt(device.id)
      .filter((id) => reach.destinations.some((destination) => reach.at(id, destination.id)));
    if (sources.length === 0) continue;
    const names = listed(
      sources.map((id) => nameOf(setup, id)),
      MOST_NAMES,
    );
    yield finding(
      'own-clock',
      'warn',
      () =>
        `“${device.name}” runs on a clock of its own, ${Math.abs(ppm).toFixed(0)} parts per million ${ppm > 0 ? 'fast' : 'slow'}: after an hour, ${names} will be ${hourlyDriftText(ppm)} off the rest. Let one device lead the clock of both.`,
      { source: sources[0], detail: device.id },
    );
  }
}

function sentence(
  { setup }: Survey,
  fault: LineFault,
  link: Link,
  names: string,
  destination: Destination,
): string {
  if (fault === 'hum-risk')
    return `The analogue line “${link.name}” is not isolated: its hum (50 Hz and harmonics) comes along with ${names} to ${placeName(destination)}.`;
  if (fault === 'rate-mismatch')
    return `“${link.name}” leads from ${rateOf(setup, link.from)} Hz to ${rateOf(setup, link.to)} Hz without conversion: ${names} would arrive at the wrong pitch and speed, or crackle.`;
  const ppm = Math.abs(driftPpm(setup, link));
  return `The clocks at both ends of “${link.name}” run ${ppm.toFixed(0)} parts per million apart: after an hour, ${names} will be ${hourlyDriftText(ppm)} off. Let one clock lead, or let the far end convert.`;
}

/** For each link that something comes over: which sources, and one place at which they arrive. */
function carriedByLink({ setup, reach }: Survey) {
  const found = new Map<string, { sources: string[]; destination: Destination; arrival: Arrival }>();
  for (const { id } of setup.sources) {
    for (const destination of reach.destinations) {
      const arrival = reach.at(id, destination.id);
      for (const { link } of arrival?.links ?? []) {
        const known = found.get(link?.id ?? '');
        if (!known && arrival && link) found.set(link.id, { sources: [id], destination, arrival });
        else if (known && !known.sources.includes(id)) known.sources.push(id);
      }
    }
  }
  return found;
}
