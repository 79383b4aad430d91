import type { Destination } from '../reach/destinations.ts';
import { deviceOf, isTakenAlone, isTakenAs } from '../reach/graph.ts';
import type { Reach } from '../reach/reach.ts';
import { pickupName } from '../setup/edits.ts';
import type { Setup, Source } from '../setup/schema.ts';
import { listed } from '../words/figures.ts';

/** A sentence names as many places at most. */
const MOST_PLACES = 2;

/**
 * Says how far a source gets that does not arrive: the places after which nothing takes it up, or what is muted.
 * Undefined when a pickup takes it.
 */
export function whereItStops(
  setup: Setup,
  reach: Reach,
  source: Source,
  { track }: Destination,
): string | undefined {
  if (source.stuck) return `it is stuck: it plays, and is silent`;
  const passes = (id: string) => id === source.id || reach.sourcesAt(id).includes(source.id);
  const carrying = setup.pickups.filter(({ id }) => passes(id));
  const heard = carrying.filter(({ monitoring }) => monitoring === 'heard');
  if (track && heard.length > 0 && heard.length === carrying.length)
    return `the recorder only plays ${pickupName(setup, heard[0].id)} back, and sends it to no track`;
  if (carrying.length > 0) return undefined;
  const silent = setup.pickups.find(
    (pickup) =>
      pickup.muted &&
      (track || pickup.monitoring) &&
      (isTakenAlone(setup, pickup, source) || passes(pickup.takes)),
  );
  if (silent) return `${pickupName(setup, silent.id)} is muted in the recorder`;
  const misnamed = setup.pickups.find(
    (pickup) => isTakenAlone(setup, pickup, source) && !isTakenAs(setup, pickup),
  );
  if (misnamed) return `the recorder asks for the app “${misnamed.asksFor}”, and nothing is called that now`;
  const { nodes, leaving, indexOf } = reach.graph;
  if (deviceOf(setup, source) === undefined && leaving[indexOf.get(source.id) as number].length === 0)
    return 'no pickup takes it';
  const listened = setup.mixes.find(({ id, listenedOn }) => listenedOn !== undefined && passes(id));
  if (listened) return `you listen in on the mix “${listened.name}”, which plays nowhere else meanwhile`;
  const ends = nodes.filter(
    ({ id, kind }, at) =>
      (kind === 'device' || kind === 'mix') && passes(id) && leaving[at].every((edge) => edge.cut),
  );
  if (ends.length > 0)
    return `it gets no further than ${listed(
      ends.map(({ place }) => place),
      MOST_PLACES,
    )}`;
  const muted = setup.mixes.find((mix) => mix.inputs.some((input) => input.muted && passes(input.from)));
  return muted ? `it is muted in the mix “${muted.name}”` : 'no pickup takes it on its way';
}
