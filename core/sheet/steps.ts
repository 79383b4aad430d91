import { stepsOn } from '../processors/processing.ts';
import { trackLimitOf } from '../reach/destinations.ts';
import { channelWords, deviceOf, sameApp } from '../reach/graph.ts';
import { reachOf } from '../reach/reach.ts';
import { everyProcessing } from '../setup/bearers.ts';
import { bearerWords } from '../setup/bearerWords.ts';
import { channelCount, channelsFilled } from '../setup/channels.ts';
import { nameOf, pickupName } from '../setup/edits.ts';
import { soundingScenes } from '../setup/scenes.ts';
import { DEFAULT_DEVICE, isPlugged, type Pickup, type Setup, type Track } from '../setup/schema.ts';
import type { Link, Mix } from '../setup/wiring.ts';
import { gainText, listed } from '../words/figures.ts';
import { processingText } from './processingText.ts';

export const STEP_GROUPS = [
  'Machines',
  'Cables',
  'Apps',
  'Mixes',
  'Who hears what',
  'Recorder',
  'Processing',
  'Tracks',
  'Check by ear',
] as const;
export type StepGroup = (typeof STEP_GROUPS)[number];

/** One thing to do on the real machines. Its id stays while the thing stays; its text changes with what is to be done. */
export interface Step {
  id: string;
  group: StepGroup;
  text: string;
}

/** Where a step stands: still to do, done as it reads now, or done before something changed. */
export type StepState = 'open' | 'done' | 'again';

/** Returns the set-up sheet: what a creator does by hand so that their machines are as the setup says, in order. */
export function stepsOf(setup: Setup): Step[] {
  return [
    ...machineSteps(setup),
    ...setup.links.map((link) => step('Cables', link.id, cable(setup, link))),
    ...appSteps(setup),
    ...setup.mixes.map((mix) => step('Mixes', mix.id, mixText(setup, mix))),
    ...hearingSteps(setup),
    ...recorderSteps(setup),
    ...monitoringSteps(setup),
    ...processingSteps(setup),
    ...setup.tracks.map((track, index) => step('Tracks', track.id, trackText(setup, track, index + 1))),
    ...checks(setup),
  ];
}

/** Tells where a step stands, given what was ticked: the text that each step had when it was. */
export function stateOf({ id, text }: Step, ticks: Setup['ticks']): StepState {
  const ticked = ticks?.[id];
  if (ticked === undefined) return 'open';
  return ticked === text ? 'done' : 'again';
}

/** Returns the set-up sheet as Markdown, with the ticks. */
export function stepsAsMarkdown(setup: Setup): string {
  const steps = stepsOf(setup);
  const groups = STEP_GROUPS.flatMap((group) => {
    const mine = steps.filter((one) => one.group === group);
    if (mine.length === 0) return [];
    const lines = mine.map((one) => {
      const state = stateOf(one, setup.ticks);
      return `- [${state === 'done' ? 'x' : ' '}] ${escapeMarkdown(one.text)}${state === 'again' ? ' _(again: it changed)_' : ''}`;
    });
    return [`## ${group}\n\n${lines.join('\n')}\n`];
  });
  return `# Set-up sheet: ${escapeMarkdown(setup.name)}\n\n${groups.join('\n')}`;
}

/** Escapes what Markdown or HTML would take for its own, so that a name stays the name that it is, on one line. */
function escapeMarkdown(text: string): string {
  return text
    .replace(/\s+/gu, ' ')
    .replace(/[\\`*_[\]<>#|]/g, '\\$&')
    .replace(/&(?=#?\w+;)/g, '&amp;');
}

function step(group: StepGroup, about: string, text: string): Step {
  return { id: `${group.toLowerCase().replaceAll(' ', '-')}:${about}`, group, text };
}

function machineSteps(setup: Setup): Step[] {
  const virtual = setup.devices
    .filter((device) => device.kind === 'virtual')
    .map((device) =>
      step(
        'Machines',
        device.id,
        `On ${nameOf(setup, device.machine)}, add the virtual device “${device.name}”.`,
      ),
    );
  const defaults = setup.machines.flatMap((machine) =>
    machine.defaultOutput
      ? [
          step(
            'Machines',
            machine.id,
            `On ${machine.name}, make “${nameOf(setup, machine.defaultOutput)}” the default output.`,
          ),
        ]
      : [],
  );
  const volumes = setup.devices
    .filter(({ volumeDb }) => volumeDb !== undefined)
    .map(({ id, name, machine, volumeDb = 0 }) =>
      step(
        'Machines',
        `${id} volume`,
        `On ${nameOf(setup, machine)}, set the volume of “${name}” to ${db(volumeDb)}.`,
      ),
    );
  const together = setup.devices.flatMap(({ id, name, machine, follows }) =>
    follows === undefined
      ? []
      : [
          step(
            'Machines',
            `${id} clock`,
            `On ${nameOf(setup, machine)}, drive “${name}” together with “${nameOf(setup, follows)}”, which leads the clock.`,
          ),
        ],
  );
  return [...virtual, ...defaults, ...volumes, ...together];
}

function cable(setup: Setup, { name, from, to, kind, isolated, converted }: Link): string {
  const place = (id: string) => {
    const device = setup.devices.find((one) => one.id === id);
    return `${nameOf(setup, device?.machine ?? '')} · ${device?.name ?? id}`;
  };
  const extra =
    kind === 'analogue' && isolated
      ? ', through an isolator'
      : converted === false
        ? '; mind the clocks, they are not matched'
        : '';
  return `${kind === 'network' ? 'Send' : 'Connect'} ${place(from)} to ${place(to)} (${name})${extra}.`;
}

function appSteps(setup: Setup): Step[] {
  return [...outputSteps(setup), ...givenSteps(setup), ...stuckSteps(setup)];
}

/** What the machines themselves give to apps that leave the choice to them. */
function givenSteps(setup: Setup): Step[] {
  return setup.sources.flatMap(({ id, name, into, machine = '', machineInto }) =>
    machineInto === undefined || into !== DEFAULT_DEVICE
      ? []
      : [
          step(
            'Apps',
            `${id} given`,
            `In the sound settings of ${nameOf(setup, machine)}, give ${name} “${nameOf(setup, machineInto)}”.`,
          ),
        ],
  );
}

function stuckSteps(setup: Setup): Step[] {
  return setup.sources
    .filter((source) => source.stuck && sameApp(setup, source)[0] === source)
    .map((source) => {
      const device = deviceOf(setup, source);
      const back = device === undefined ? '' : ` to “${nameOf(setup, device)}”`;
      return step(
        'Apps',
        `${source.id} stuck`,
        `${source.app ?? source.name} is stuck: move its output to another device, and back${back}.`,
      );
    });
}

function outputSteps(setup: Setup): Step[] {
  return setup.sources
    .filter((source) => source.into !== undefined && sameApp(setup, source)[0] === source)
    .map((source) => {
      const name = source.app ?? source.name;
      const where = nameOf(setup, source.machine ?? '');
      const device = source.into === DEFAULT_DEVICE ? null : nameOf(setup, source.into ?? '');
      if (isPlugged(source.kind)) return step('Apps', source.id, `Plug ${name} into ${where} · ${device}.`);
      const volume = `, with its own volume at ${source.volumePercent ?? 100} %`;
      return step(
        'Apps',
        source.id,
        device
          ? `In ${name} on ${where}, choose “${device}” as the output${volume}.`
          : `Leave ${name} on the default output of ${where}${volume}.`,
      );
    });
}

function mixText(setup: Setup, { name, machine, inputs, into }: Mix): string {
  const open = inputs.filter((input) => !input.muted);
  const muted = inputs.filter((input) => input.muted);
  const parts = open.map(
    ({ from, gainDb, delayMs }) =>
      `${nameOf(setup, from)} at ${db(gainDb)}${delayMs ? `, ${delayMs} ms late` : ''}`,
  );
  const without = muted.length > 0 ? `, without ${listed(muted.map(({ from }) => nameOf(setup, from)))}` : '';
  return `On ${nameOf(setup, machine)}, set the mix “${name}” to ${parts.join('; ') || 'nothing'}${without}, into ${listed(into.map((id) => nameOf(setup, id))) || 'nothing'}.`;
}

function hearingSteps(setup: Setup): Step[] {
  return setup.destinations
    .filter((one) => one.hears?.length)
    .map((one) => {
      const devices = listed(one.hears?.map((id) => `“${nameOf(setup, id)}”`) ?? []);
      return step(
        'Who hears what',
        one.id,
        one.kind === 'friends'
          ? `In the chat app, choose ${devices} as the microphone.`
          : `Let ${one.name} play ${devices}.`,
      );
    });
}

function recorderSteps(setup: Setup): Step[] {
  return setup.pickups.map((pickup) => {
    const app = setup.sources.find((source) => source.id === pickup.takes);
    const what = app
      ? `the app ${pickup.asksFor ?? app.app ?? app.name} alone`
      : `${pickup.pairs ? `${2 * pickup.pairs} channels of ` : ''}the device “${nameOf(setup, pickup.takes)}”`;
    const scenes = soundingScenes(setup, pickup);
    const how = [
      ...(pickup.gainDb === 0 ? [] : [db(pickup.gainDb)]),
      ...(pickup.delayMs ? [`delayed by ${pickup.delayMs} ms`] : []),
      ...(pickup.mono ? ['folded to mono'] : []),
      ...(pickup.muted ? ['muted'] : []),
      ...(pickup.monitoring ? [monitoringWords(setup, pickup.monitoring)] : []),
      ...(scenes ? [`in the scenes ${listed(scenes.map((id) => nameOf(setup, id))) || 'none'}`] : []),
    ];
    return step(
      'Recorder',
      pickup.id,
      `In the recorder, pick up ${what}${how.length > 0 ? `, ${how.join(', ')}` : ''}.`,
    );
  });
}

/** How a pickup is played back, within a sentence. */
function monitoringWords(
  { recorder, ...setup }: Setup,
  monitoring: NonNullable<Pickup['monitoring']>,
): string {
  const device = recorder.monitorDevice;
  const where = device === undefined ? '' : ` on “${nameOf({ ...setup, recorder }, device)}”`;
  return monitoring === 'heard' ? `played back${where}, and sent to no track` : `played back${where} too`;
}

/** What the recorder plays to somebody by itself. */
function monitoringSteps(setup: Setup): Step[] {
  return setup.sends.flatMap(({ pickup, to, gainDb }) => {
    const heardAt = setup.destinations.find(({ id }) => id === to);
    if (!heardAt) return [];
    return step(
      'Recorder',
      `${pickup}>${to}`,
      `In the recorder, let ${heardAt.name} hear ${pickupName(setup, pickup)} at ${db(gainDb)}.`,
    );
  });
}

/** What is done to sounds, place by place, in the order in which it is done. */
function processingSteps(setup: Setup): Step[] {
  return everyProcessing(setup).flatMap(({ bearer, processing }) => {
    const on = stepsOn(processing);
    if (on.length === 0) return [];
    const about = 'id' in bearer ? bearer.id : `${bearer.from}>${bearer.to}`;
    const where = bearerWords(setup, bearer);
    return step('Processing', about, `On ${where}, switch on, in this order: ${processingText(setup, on)}.`);
  });
}

function trackText(setup: Setup, track: Track, number: number): string {
  const sends = setup.sends
    .filter((send) => send.to === track.id)
    .map((send) => {
      const channels = channelsFilled(setup, track, send);
      const where = channels.length > 0 ? ` on ${channelWords(channels)}` : '';
      return `${pickupName(setup, send.pickup)} at ${db(send.gainDb)}${where}`;
    });
  const layout = track.layout === 'multichannel' ? ` with ${channelCount(track)} channels` : '';
  const uses = track.uses.map((use) => (use === 'vod' ? 'VOD' : use)).join(' and ') || 'nothing';
  return `Switch on track ${number}, call it “${track.name}”${layout}, use it for ${uses}; on it: ${sends.join('; ') || 'nothing'}.`;
}

/** The habit that saves people: record a minute with everything sounding, and listen to each track. */
function checks(setup: Setup): Step[] {
  const reach = reachOf(setup);
  const destinationOf = (track: Track) => reach.destinations.find((one) => one.sendTo === track.id);
  const heardOn = (track: Track) => {
    const destination = destinationOf(track);
    return setup.sources.filter((source) => destination && reach.at(source.id, destination.id));
  };
  const moving = setup.tracks
    .slice(0, trackLimitOf(setup))
    .filter((track) => heardOn(track).length > 0).length;
  const record = step(
    'Check by ear',
    'minute',
    `Let everything sound at once (${listed(setup.sources.map(({ name }) => name)) || 'nothing yet'}) and record a minute; look that ${moving === 1 ? 'the meter of 1 track moves' : `the meters of ${moving} tracks move`}.`,
  );
  const listen = setup.tracks.map((track, index) => {
    const heard = heardOn(track);
    const absent = setup.sources.filter(
      (source) => !heard.includes(source) && !source.clearance.upload && track.purpose === 'publish',
    );
    const names = heard.map(({ name }) => name);
    const must = names.length === 0 ? 'silence' : `${listed(names)}${names.length === 1 ? ' alone' : ''}`;
    const not = absent.length > 0 ? `, and nothing of ${listed(absent.map(({ name }) => name))}` : '';
    return step('Check by ear', track.id, `Listen to track ${index + 1}, “${track.name}”: ${must}${not}.`);
  });
  return setup.tracks.length > 0 ? [record, ...listen] : [];
}

function db(gainDb: number): string {
  if (Math.abs(gainDb) < 0.05) return '0 dB';
  return `${gainText(gainDb)} dB`;
}
