import { type FoldDown, fromSides } from '../audio/foldDown.ts';
import type { Problem } from './problem.ts';
import type { Send, Setup, Track, TrackChannel } from './schema.ts';

/** How many channels a track has, from one to eight. */
export function channelCount({ layout, channels }: Pick<Track, 'layout' | 'channels'>): number {
  if (layout === 'mono') return 1;
  return layout === 'stereo' ? 2 : (channels?.length ?? 2);
}

const DEFAULT_BITRATE_KBPS = 160;
/** What Opus can do in one channel at most (RFC 6716, section 2.1.1, gives 510 kb/s for two), with some room. */
const MOST_OPUS_KBPS_A_CHANNEL = 255;

/** Returns the bit rate of a lossy track (kb/s). */
export function bitrateKbpsOf(track: Pick<Track, 'codec' | 'bitrateKbps' | 'layout' | 'channels'>): number {
  return Math.min(track.bitrateKbps ?? DEFAULT_BITRATE_KBPS, mostBitrateKbps(track));
}

/** Returns the highest bit rate that the codec of a track can have with its channels (kb/s). */
export function mostBitrateKbps({ codec, ...layout }: Pick<Track, 'codec' | 'layout' | 'channels'>): number {
  return codec === 'opus' ? MOST_OPUS_KBPS_A_CHANNEL * channelCount(layout) : 512;
}

/** Bit rates that the codec of a track cannot have. */
export function brokenBitrates({ tracks }: Setup): Problem[] {
  return tracks.flatMap((track, index) =>
    track.bitrateKbps !== undefined && track.bitrateKbps > mostBitrateKbps(track)
      ? [
          {
            field: `tracks[${index}].bitrateKbps`,
            rule: `is ${track.bitrateKbps}; Opus takes up to ${MOST_OPUS_KBPS_A_CHANNEL} kb/s for each channel, ${mostBitrateKbps(track)} here`,
          },
        ]
      : [],
  );
}

/**
 * Returns the channels of a multichannel track, counted anew: the ones that there are, then new ones. The first two
 * fold to their sides, every other to both at −3 dB (the centre of ITU-R BS.775-3, Annex 4).
 */
export function channelsOf(count: number, known: TrackChannel[] = []): TrackChannel[] {
  return Array.from({ length: count }, (_, index): TrackChannel => {
    if (known[index]) return known[index];
    if (index < 2) return { fold: index === 0 ? 'left' : 'right', gainDb: 0 };
    return { fold: 'both', gainDb: -3 };
  });
}

/** The channels of a track that a send stands on, counted from one; null where the track is mono or stereo. */
export function standsOn(track: Track, send: Pick<Send, 'channels'>): number[] | null {
  return track.layout === 'multichannel' ? (send.channels ?? [1, 2]) : null;
}

/** All channels of a multichannel track that a send fills: each further pair of its pickup stands after the one before. */
export function channelsFilled(
  setup: Pick<Setup, 'pickups'>,
  track: Track,
  send: Pick<Send, 'pickup' | 'channels'>,
): number[] {
  const [first, ...more] = standsOn(track, send) ?? [];
  if (first === undefined) return [];
  const further = 2 * pairsTaken(setup, send.pickup) - 2;
  return [first, ...more, ...Array.from({ length: further }, (_, i) => first + 2 + i)];
}

function pairsTaken({ pickups }: Pick<Setup, 'pickups'>, id: string): number {
  return pickups.find((pickup) => pickup.id === id)?.pairs ?? 1;
}

/** Every place where a pickup can stand on a multichannel track: each pair of channels, and each channel alone. */
export function placesOn(track: Track): number[][] {
  const count = channelCount(track);
  const single = Array.from({ length: count }, (_, index) => [index + 1]);
  return [
    ...single.filter(([one]) => one % 2 === 1 && one < count).map(([one]) => [one, one + 1]),
    ...single,
  ];
}

/**
 * Where a new send stands on a multichannel track: the first place on which nothing stands yet, a single channel where all others have
 * one; undefined (channels 1 and 2) where there is none, or the track has no more than two channels.
 */
export function freePlaceOn(
  setup: Pick<Setup, 'sends' | 'pickups'>,
  track: Track,
  pickup: string,
): number[] | undefined {
  if (track.layout !== 'multichannel') return undefined;
  const others = setup.sends.flatMap((send) =>
    send.to === track.id ? [channelsFilled(setup, track, send)] : [],
  );
  const taken = new Set(others.flat());
  const areSingle = others.length > 0 && others.every((one) => one.length === 1);
  const isOfPairs = pairsTaken(setup, pickup) > 1;
  return placesOn(track)
    .filter((place) => isOfPairs || !areSingle || place.length === 1)
    .filter((place) => isPlaceFor(setup, track, { pickup, channels: place }))
    .find((place) =>
      channelsFilled(setup, track, { pickup, channels: place }).every((channel) => !taken.has(channel)),
    );
}

/** The fold-down that live and VOD get of a multichannel track. */
export function foldOf({ channels = [] }: Track): FoldDown {
  return fromSides(channels.map(({ fold, gainDb }) => (fold === 'none' ? null : { side: fold, gainDb })));
}

/**
 * How a multichannel track is listened to by itself: nothing is turned down, pairs lie on their sides and single
 * channels in the middle.
 */
export function plainFoldOf(setup: Setup, track: Track): FoldDown {
  const paired = new Set(
    setup.sends
      .filter((send) => send.to === track.id)
      .map((send) => channelsFilled(setup, track, send))
      .filter((channels) => channels.length > 1)
      .flat(),
  );
  return fromSides(
    (track.channels ?? []).map((_, index) => ({
      side: !paired.has(index + 1) ? 'both' : index % 2 === 0 ? 'left' : 'right',
      gainDb: 0,
    })),
  );
}

/** The fold-down in which a track of a take is played and measured: null for mono and stereo, which need none. */
export function heardFoldOf(setup: Setup, track: Track): FoldDown | null {
  if (track.layout !== 'multichannel') return null;
  const isOnAir = setup.destinations.some(
    ({ kind }) => (kind === 'live' || kind === 'vod') && track.uses.includes(kind),
  );
  return isOnAir ? foldOf(track) : plainFoldOf(setup, track);
}

/** Returns what is wrong with the layouts of the tracks, and with the channels that sends stand on. */
export function brokenChannels(setup: Setup): Problem[] {
  const problems: Problem[] = [];
  setup.tracks.forEach((track, index) => {
    const field = `tracks[${index}]`;
    if (track.layout !== 'multichannel' && track.channels)
      problems.push({ field: `${field}.channels`, rule: 'only a multichannel track lists its channels' });
    if (track.layout === 'multichannel' && !track.channels)
      problems.push({ field: `${field}.channels`, rule: 'a multichannel track lists its 3 to 8 channels' });
    if (track.layout === 'multichannel' && (track.codec === 'aac' || track.codec === 'opus'))
      problems.push({
        field: `${field}.codec`,
        rule: 'a multichannel track is recorded as PCM or FLAC, which keep every channel apart',
      });
  });
  const tracks = new Map(setup.tracks.map((track) => [track.id, track]));
  setup.sends.forEach((send, index) => {
    const { to, channels, pickup } = send;
    const field = `sends[${index}].channels`;
    const track = tracks.get(to);
    const pairs = pairsTaken(setup, pickup);
    if (track?.layout === 'multichannel' && pairs > 1 && !isPlaceFor(setup, track, send))
      problems.push({
        field,
        rule: `"${pickup}" takes ${2 * pairs} channels, which stand side by side on "${to}" and need as many from an odd one on; it has ${channelCount(track)}`,
      });
    if (!channels) return;
    if (track?.layout !== 'multichannel')
      problems.push({
        field,
        rule: `"${to}" is no multichannel track, so a send cannot choose channels of it`,
      });
    else if (!isPlaceOn(track, channels))
      problems.push({
        field,
        rule: `must be one of the ${channelCount(track)} channels of "${to}", or a pair such as 1 and 2, or 3 and 4`,
      });
  });
  return [...problems, ...halvedPairs(setup)];
}

/** A channel that carries one pickup alone cannot be half of a pair for another: neither could be told apart. */
function halvedPairs(setup: Setup): Problem[] {
  return setup.tracks
    .filter((track) => track.layout === 'multichannel')
    .flatMap((track) => {
      const stands = setup.sends
        .filter((send) => send.to === track.id)
        .map((send) => channelsFilled(setup, track, send));
      const pairs = stands.filter((channels) => channels.length > 1).flat();
      const torn = stands.find((channels) => channels.length === 1 && pairs.includes(channels[0]));
      if (!torn) return [];
      const rule = `channel ${torn[0]} of "${track.id}" carries one pickup alone and is half of a pair for another; move one of them to other channels`;
      return [{ field: 'sends', rule }];
    });
}

/** Tells whether all that a pickup takes fits where its send stands. */
export function isPlaceFor(
  setup: Pick<Setup, 'pickups'>,
  track: Track,
  send: Pick<Send, 'pickup' | 'channels'>,
): boolean {
  const channels = channelsFilled(setup, track, send);
  const isWhole = pairsTaken(setup, send.pickup) === 1 || standsOn(track, send)?.length === 2;
  return isWhole && channels.every((channel) => channel <= channelCount(track));
}

/** Tells whether a pickup can stand on these channels of a track. */
export function isPlaceOn(track: Track, channels: number[]): boolean {
  return placesOn(track).some((place) => place.join() === channels.join());
}
