import { deviceOf, isCalledSo, isOverruled } from '../../reach/graph.ts';
import { OFF_LEVEL_DB, volumeDb } from '../../reach/reach.ts';
import { nameOf } from '../../setup/edits.ts';
import { DEFAULT_DEVICE, type Source } from '../../setup/schema.ts';
import { type Finding, finding, placeName } from '../finding.ts';
import type { Survey } from '../survey.ts';

/** What is set in an app itself, or for it: a device that nobody hears, the default device, its own volume, its name; and one that is stuck. */
export function* apps(survey: Survey): Generator<Finding> {
  for (const source of survey.setup.sources) {
    yield* stuck(survey, source);
    yield* notCalled(survey, source);
    yield* swallowed(survey, source);
    yield* onDefault(survey, source);
    yield* overruled(survey, source);
    yield* turnedDown(survey, source);
  }
}

function* swallowed({ setup, reach, intent }: Survey, source: Source): Generator<Finding> {
  if (source.into === undefined || source.stuck) return;
  const node = reach.graph.indexOf.get(deviceOf(setup, source) ?? '');
  const where =
    node === undefined ? 'a default device that its machine does not have' : reach.graph.nodes[node].place;
  const arrivesAt = reach.destinations.filter((destination) => reach.at(source.id, destination.id));
  if (arrivesAt.length === 0) {
    yield finding('swallowed', 'warn', `${source.name} plays into ${where}, and nobody hears it.`, {
      source: source.id,
    });
    return;
  }
  const heardAt = reach.destinations.find(
    ({ id, kind }) => kind === 'headphones' && intent.at(source.id, id) !== null,
  );
  if (!heardAt || reach.at(source.id, heardAt.id)) return;
  yield finding(
    'swallowed',
    'warn',
    `${source.name} plays into ${where}. It goes on to ${placeName(arrivesAt[0])}, but you cannot hear it yourself.`,
    { source: source.id, destination: heardAt.id },
  );
}

function* onDefault({ setup }: Survey, source: Source): Generator<Finding> {
  const machine = setup.machines.find(({ id }) => id === source.machine);
  if (source.into !== DEFAULT_DEVICE || source.machineInto !== undefined || !machine) return;
  yield finding(
    'on-default',
    'note',
    `${source.name} plays into the default device of ${machine.name}. If the computer changes its default device, this app moves with it.`,
    { source: source.id },
  );
}

function* stuck({ setup }: Survey, source: Source): Generator<Finding> {
  if (!source.stuck) return;
  const device = deviceOf(setup, source);
  const into = device === undefined ? '' : ` into “${nameOf(setup, device)}”`;
  yield finding(
    'stuck',
    'warn',
    `${source.name} plays${into}, and is silent all the same. Moving its output to another device and back helps.`,
    { source: source.id },
  );
}

function* notCalled({ setup }: Survey, source: Source): Generator<Finding> {
  for (const pickup of setup.pickups) {
    if (pickup.takes !== source.id || isCalledSo(pickup, source)) continue;
    yield finding(
      'not-called',
      'warn',
      `The recorder asks for the app “${pickup.asksFor}”, and nothing is called that now. Take “${source.app ?? source.name}” instead.`,
      { source: source.id, detail: pickup.id },
    );
  }
}

function* overruled({ setup }: Survey, source: Source): Generator<Finding> {
  const { into, machineInto, machine = '' } = source;
  if (!isOverruled(source) || machineInto === undefined || into === undefined) return;
  yield finding(
    'overruled',
    'note',
    `${source.name} names “${nameOf(setup, into)}” itself. So the “${nameOf(setup, machineInto)}” that ${nameOf(setup, machine)} gives to it does not count.`,
    { source: source.id },
  );
}

function* turnedDown(survey: Survey, source: Source): Generator<Finding> {
  const { volumePercent = 100 } = source;
  if (volumePercent >= 100) return;
  yield finding(
    'player-volume',
    isTooQuiet(survey, source) ? 'warn' : 'note',
    `${source.name}’s own volume is at ${volumePercent} %, so it is ${(-volumeDb(source)).toFixed(1)} dB quieter everywhere than its levels say.`,
    { source: source.id },
  );
}

/** Tells whether an app's own volume keeps it off its wish somewhere. */
function isTooQuiet({ reach, intent }: Survey, source: Source): boolean {
  if (-volumeDb(source) < OFF_LEVEL_DB) return false;
  return reach.destinations.some(({ id }) => {
    const wishDb = intent.at(source.id, id);
    const arrival = reach.at(source.id, id);
    return wishDb !== null && arrival !== null && wishDb - arrival.gainDb >= OFF_LEVEL_DB;
  });
}
