import { clearanceOf } from '../setup/clearance.ts';
import { newId } from '../setup/ids.ts';
import { AIR_DB, DEFAULT_DEVICE, isPlugged, SETUP_VERSION, type Setup } from '../setup/schema.ts';
import type { Device, Link, MixInput } from '../setup/wiring.ts';
import type { Hardware, RoomSource } from './hardware.ts';
import type { Aims, PlannedSource, planTracks } from './tracks.ts';

/** Levels that a first setup starts with (dB), by kind. */
const FIRST_DB: Partial<Record<PlannedSource['kind'], number>> = {
  game: -10,
  music: -16,
  alerts: -8,
  browser: -8,
  'sound pad': -8,
  handheld: -9,
  system: -12,
};
const HDMI_MS = 40;
const NETWORK_MS = 20;
const USB_MS = 6;

/** How late the recorder plays something back (ms). */
const MONITOR_MS = 25;
/** How loud the game is beside the voice in a mix for somebody else (dB). */
const SIDE_GAME_DB = -12;

/** A source as it was placed: its id, the pickup that brings it, and whether the creator hears it. */
interface Placed {
  id: string;
  pickup: string;
  levelDb: number;
  isHeard: boolean;
}

/** Builds a setup up from nothing: devices, links, mixes, pickups, tracks, sends and wishes. */
export class RoomBuilder {
  readonly setup: Setup;
  readonly reasons: string[] = [];
  private readonly hardware: Hardware;
  /** Where the game is played, and where the recorder runs; the same with one machine. */
  private readonly play: string;
  private readonly stream: string;
  private readonly apps = new Map<string, { device: string; pickup: string }>();
  /** The devices of the playing machine that the creator is to hear. */
  private readonly heard: string[] = [];
  private microphone: string | null = null;
  /** The games whose sound a mix of the playing machine can take in, by their devices. */
  private readonly games = new Map<string, string[]>();

  constructor(name: string, aims: Aims, hardware: Hardware) {
    this.hardware = hardware;
    this.play = 'computer';
    this.stream = hardware.machines === 'two' ? 'streaming' : 'computer';
    this.setup = {
      format: 'northfen.setup',
      version: SETUP_VERSION,
      name,
      recorder: { machine: this.stream, trackLimit: aims.tracks },
      machines: [],
      devices: [],
      links: [],
      mixes: [],
      scenes: [],
      sources: [],
      pickups: [],
      tracks: [],
      destinations: [
        hardware.loudspeakers
          ? { id: 'headphones', name: 'Own loudspeakers', kind: 'loudspeakers', hears: [] }
          : { id: 'headphones', name: 'Own headphones', kind: 'headphones', hears: [] },
        { id: 'friends', name: 'Friends in chat', kind: 'friends', hears: [] },
        ...(aims.live ? [{ id: 'live', name: 'Live', kind: 'live' as const, targetLufs: -16 }] : []),
        ...(aims.vod ? [{ id: 'vod', name: 'VOD', kind: 'vod' as const, targetLufs: -16 }] : []),
      ],
      sends: [],
      intent: [],
    };
    const { machines } = this.setup;
    machines.push({
      id: 'computer',
      name: hardware.machines === 'two' ? 'Playing computer' : 'Computer',
      kind: 'computer',
    });
    if (hardware.machines === 'two')
      machines.push({ id: 'streaming', name: 'Streaming computer', kind: 'computer' });
    if (hardware.desk) machines.push({ id: 'desk', name: 'Desk', kind: 'desk', handovers: 2 });
    const output = hardware.loudspeakers ? 'Loudspeakers' : 'Headset';
    this.device('computer.headset', output, 'computer', 'out', 'physical');
    machines[0].defaultOutput = 'computer.headset';
    if (hardware.machines === 'two') {
      this.device('streaming.speakers', 'Unused output', 'streaming', 'out', 'physical');
      machines[1].defaultOutput = 'streaming.speakers';
      this.reasons.push(
        'Each sound crosses to the streaming computer by a way of its own, so that none is fused there.',
      );
    }
  }

  /** Loudspeakers stand in the room of every microphone. */
  addAir(): void {
    if (!this.hardware.loudspeakers) return;
    const microphones = this.setup.sources.filter(({ kind }) => kind === 'microphone');
    if (microphones.length === 0) return;
    this.setup.air = microphones.map(({ id }) => ({
      destination: 'headphones',
      source: id,
      gainDb: AIR_DB,
    }));
    this.reasons.push(
      'Your microphone hears the loudspeakers, about 30 dB quieter: whatever they play is then in your voice, and your friends hear themselves. Headphones end that.',
    );
  }

  addSource(source: RoomSource): Placed {
    const id = newId(this.setup, source.name);
    const machine = source.onStreaming ? this.stream : this.play;
    const plugged = isPlugged(source.kind);
    const via = plugged ? this.plugIn(source, id) : this.app(source, id, machine);
    this.setup.sources.push({
      id,
      name: source.name,
      kind: source.kind,
      clearance: clearanceOf(source.preset),
      machine: via.machine,
      ...this.output(via),
      ...(source.app ? { app: source.app } : {}),
      levelDb: 0,
      media: null,
    });
    const isHeard = !plugged && machine === this.play;
    if (source.kind === 'game' && this.heard.includes(via.device))
      this.games.set(via.device, [...(this.games.get(via.device) ?? []), id]);
    return { id, pickup: via.pickup, levelDb: FIRST_DB[source.kind] ?? 0, isHeard };
  }

  /** How an app comes to its device: it names it itself, or its machine gives it to the app. */
  private output({ device }: { device: string }) {
    const isApp = this.setup.devices.some(({ id, direction }) => id === device && direction === 'out');
    if (!this.hardware.isGiven || !isApp) return { into: device };
    return { into: DEFAULT_DEVICE, machineInto: device };
  }

  /** Everything that is played on the playing computer is brought to the headphones, and the voice to the friends. */
  finishWiring(): void {
    const { mixes, destinations } = this.setup;
    if (this.heard.length > 0)
      mixes.push({
        id: 'to-headphones',
        name: this.hardware.loudspeakers ? 'To the loudspeakers' : 'To the headphones',
        machine: this.play,
        inputs: this.heard.map((from) => ({ from, gainDb: 0 })),
        into: ['computer.headset'],
      });
    const [headphones, friends] = destinations;
    headphones.hears = ['computer.headset'];
    if (this.microphone) {
      friends.hears = [this.microphone];
      if (this.hardware.chatMix) return;
      this.reasons.push(
        this.hardware.loudspeakers
          ? 'Your friends get the microphone alone.'
          : 'Your friends get the microphone alone: they never hear themselves, nor the music.',
      );
    }
  }

  addTrack(
    { name, uses, purpose, sources }: ReturnType<typeof planTracks>['tracks'][number],
    placed: Placed[],
  ): void {
    const id = newId(this.setup, name);
    this.setup.tracks.push({ id, name, uses, purpose, codec: 'pcm-s24', layout: 'stereo' });
    const isAlone = purpose === 'edit';
    const pickups = new Map(
      sources.map((index) => [placed[index].pickup, isAlone ? 0 : placed[index].levelDb]),
    );
    for (const [pickup, gainDb] of pickups) this.setup.sends.push({ pickup, to: id, gainDb });
    const onAir = uses.filter((use) => use !== 'file');
    for (const destination of onAir.length > 0 ? onAir : [id])
      for (const index of sources)
        this.setup.intent.push({
          source: placed[index].id,
          destination,
          gainDb: isAlone ? 0 : placed[index].levelDb,
        });
    const isShared = isAlone && sources.length > 1;
    if (isShared)
      this.setup.sources = this.setup.sources.map((source) =>
        sources.some((index) => placed[index].id === source.id) ? { ...source, ownTrack: false } : source,
      );
  }

  /** Headphones get what plays on the machine before the creator; sources that found no track want none. */
  addWishes(sources: RoomSource[], placed: Placed[], aims: Aims): void {
    sources.forEach((source, index) => {
      const { id, isHeard } = placed[index];
      if (isHeard) this.setup.intent.push({ source: id, destination: 'headphones', gainDb: 0 });
      if (source.kind === 'microphone' && this.microphone)
        this.setup.intent.push({ source: id, destination: 'friends', gainDb: 0 });
    });
    const onEdit = new Set(
      this.setup.tracks.filter((track) => track.purpose === 'edit').map((track) => track.id),
    );
    this.setup.sources = this.setup.sources.map((source) =>
      this.setup.intent.some((wish) => wish.source === source.id && onEdit.has(wish.destination)) ||
      !source.clearance.edit
        ? source
        : { ...source, ownTrack: false },
    );
    if (aims.tracks < this.setup.tracks.length) this.setup.recorder.trackLimit = this.setup.tracks.length;
  }

  /** A microphone and the like: into the desk when there is one, else into the playing computer. */
  private plugIn(source: RoomSource, id: string): { machine: string; device: string; pickup: string } {
    const machine = this.hardware.desk ? 'desk' : this.play;
    const input = this.device(`${machine}.${id}`, `${source.name} input`, machine, 'in', 'physical');
    if (machine === 'desk') return { machine, device: input, pickup: this.overDesk(source, id, input) };
    if (source.kind === 'microphone') this.microphone ??= input;
    if (this.stream === this.play) return { machine, device: input, pickup: this.pickup(source.name, input) };
    const taken = this.crossing(source.name, input, id, 'network');
    return { machine, device: input, pickup: this.pickup(source.name, taken) };
  }

  /** The desk hands its microphone over to the recorder, and once more to the chat where that is another machine. */
  private overDesk(source: RoomSource, id: string, input: string): string {
    const isMicrophone = source.kind === 'microphone';
    const feed = this.feed(`${source.name} to the recorder`, `${id}-feed`, input, this.stream);
    if (isMicrophone && this.microphone === null)
      this.microphone =
        this.stream === this.play
          ? feed
          : this.feed(`${source.name} to the chat`, `${id}-chat`, input, this.play);
    return this.pickup(source.name, feed);
  }

  private feed(name: string, id: string, input: string, machine: string): string {
    const out = this.device(`desk.${id}`, name, 'desk', 'out', 'physical');
    const end = this.device(`${machine}.${id}`, name, machine, 'in', 'physical');
    this.setup.mixes.push({
      id: `${id}-mix`,
      name,
      machine: 'desk',
      inputs: [{ from: input, gainDb: 0 }],
      into: [out],
    });
    this.link(name, out, end, 'usb', USB_MS);
    const desk = this.setup.machines.find((one) => one.id === 'desk');
    const over = this.setup.mixes.filter((mix) => mix.machine === 'desk').length;
    if (desk?.handovers && over > desk.handovers) desk.handovers = over;
    return end;
  }

  /** An app: a virtual device of its own, taken there or at the other end of its way to the recorder. */
  private app(
    source: RoomSource,
    id: string,
    machine: string,
  ): { machine: string; device: string; pickup: string } {
    const known = source.app ? this.apps.get(source.app) : undefined;
    if (known) return { machine, ...known };
    const name = source.app ?? source.name;
    const isPlayedBack = this.isPlayedBack(source, machine);
    if (this.hardware.takes === 'apps' && machine === this.stream && !isPlayedBack) {
      const straight = { device: `${machine}.${machine === this.play ? 'headset' : 'speakers'}` };
      const taken = { ...straight, pickup: this.pickup(name, id) };
      if (source.app) this.apps.set(source.app, taken);
      return { machine, ...taken };
    }
    const device = this.device(`${machine}.${id}`, name, machine, 'out', 'virtual');
    if (machine === this.play && !isPlayedBack) this.heard.push(device);
    const isGame = source.kind === 'game' && this.hardware.machines === 'two';
    const taken =
      machine === this.stream ? device : this.crossing(name, device, id, isGame ? 'hdmi' : 'network');
    const made = { device, pickup: this.pickup(name, taken) };
    if (isPlayedBack) this.playBack(made.pickup);
    if (source.app) this.apps.set(source.app, made);
    return { machine, ...made };
  }

  private isPlayedBack({ kind }: RoomSource, machine: string): boolean {
    return (
      this.hardware.playsBack === true && kind === 'music' && machine === this.play && machine === this.stream
    );
  }

  private playBack(pickup: string): void {
    const { setup } = this;
    setup.recorder = {
      ...setup.recorder,
      monitorDevice: 'computer.headset',
      monitorDelayMs: MONITOR_MS,
    };
    setup.pickups = setup.pickups.map((one) =>
      one.id === pickup ? { ...one, monitoring: 'heard and sent' } : one,
    );
  }

  /** A mix of microphone and game for the friends, or for a web studio, where it is asked for. */
  addSideMixes(): void {
    const { hardware, setup } = this;
    const friends = setup.destinations.find(({ id }) => id === 'friends');
    if (hardware.chatMix && friends) {
      friends.hears = [this.sideMix('chat', 'Chat mix', 'friends')];
      this.reasons.push(
        'Your friends get a mix of your microphone and the game, never their own voices, nor the music.',
      );
    }
    if (hardware.studio) {
      setup.destinations.splice(2, 0, { id: 'web-studio', name: 'Web studio', kind: 'other' });
      setup.destinations[2].hears = [this.sideMix('studio', 'Studio mix', 'web-studio')];
      for (const { id, kind } of setup.sources)
        if (kind === 'microphone' && this.microphone)
          setup.intent.push({ source: id, destination: 'web-studio', gainDb: 0 });
      this.reasons.push('The web studio takes a mix of your microphone and the game as its microphone.');
    }
  }

  /** Makes a virtual output that carries microphone and games. @returns its id */
  private sideMix(id: string, name: string, destination: string): string {
    const output = this.device(`${this.play}.${id}-mix`, name, this.play, 'out', 'virtual');
    const inputs: MixInput[] = this.microphone ? [{ from: this.microphone, gainDb: 0 }] : [];
    for (const [from, sources] of this.games) {
      inputs.push({ from, gainDb: SIDE_GAME_DB });
      for (const source of sources) this.setup.intent.push({ source, destination, gainDb: SIDE_GAME_DB });
    }
    this.setup.mixes.push({ id: `to-${id}`, name, machine: this.play, inputs, into: [output] });
    return output;
  }

  /** Brings what is in a device of the playing computer to the streaming one. */
  private crossing(name: string, device: string, id: string, kind: 'hdmi' | 'network'): string {
    const out = this.device(
      `${this.play}.${id}.out`,
      `${name} to streaming`,
      this.play,
      'out',
      kind === 'hdmi' ? 'physical' : 'virtual',
    );
    const end = this.device(
      `${this.stream}.${id}.in`,
      name,
      this.stream,
      'in',
      kind === 'hdmi' ? 'physical' : 'virtual',
    );
    this.setup.mixes.push({
      id: `${id}-crossing`,
      name: `${name} to streaming`,
      machine: this.play,
      inputs: [{ from: device, gainDb: 0 }],
      into: [out],
    });
    this.link(
      `${name} ${kind === 'hdmi' ? 'over HDMI' : 'over the network'}`,
      out,
      end,
      kind,
      kind === 'hdmi' ? HDMI_MS : NETWORK_MS,
    );
    return end;
  }

  private device(
    id: string,
    name: string,
    machine: string,
    direction: Device['direction'],
    kind: Device['kind'],
  ): string {
    this.setup.devices.push({ id, name, machine, direction, kind });
    return id;
  }

  private link(name: string, from: string, to: string, kind: Link['kind'], latencyMs: number): void {
    this.setup.links.push({ id: newId(this.setup, name), name, from, to, kind, latencyMs });
  }

  private pickup(name: string, takes: string): string {
    const id = newId(this.setup, `${name} pickup`);
    this.setup.pickups.push({ id, name, takes, gainDb: 0 });
    return id;
  }
}
