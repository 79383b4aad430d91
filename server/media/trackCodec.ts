import { type Input, type InputAudioTrack, type InputTrack, MP4, MPEG_TS, QTFF } from 'mediabunny';
import { AV_CODEC_ID_NONE, type CodecParameters } from 'node-av';
import { type KnownFile, type KnownStream, knownFileAt } from './knownFile.ts';
import { pathOf } from './openInput.ts';
import { isDecodedHere } from './packetDecoder.ts';
import type { DecoderConfig } from './packetWriter.ts';

/** Of these, the packets that the media library hands on from Matroska are not whole: a part of each is kept elsewhere there. */
const TAKEN_APART = ['wavpack'];
/** Of other sound in MP4 and MOV, the media library may hand on parts of packets: some of it is stored without saying where each begins. */
const WHOLE_IN_MP4 = ['alac', 'mp2', 'mp3', 'aac', 'ac3', 'eac3', 'dts', 'vorbis', 'opus', 'flac'];

/** How a track is coded. */
export interface TrackCodec {
  /** As the media library calls it; as FFmpeg does where the library does not know it, else as its container does. */
  codec: string;
  /** All that FFmpeg knows of it, where the media library does not know its codec; null elsewhere. */
  parameters: CodecParameters | null;
  /** Whether its packets are handed on whole, and something here knows what they are. */
  isKnown: boolean;
}

/** MP4 says of these that they have two channels, whatever they have: it is known from their packets alone. */
const UNTOLD_IN_MP4 = ['mp3', 'vorbis', 'dts'];

const knownOf = new WeakMap<Input, Promise<KnownFile | null>>();

/** Reads how a track is coded, where the media library does not know it from FFmpeg. */
export async function codecOf(track: InputTrack): Promise<TrackCodec> {
  const codec = await track.getCodec();
  if (codec) return { codec, parameters: null, isKnown: true };
  const stream = await streamOf(track);
  const called = await track.getInternalCodecId();
  const fallback = typeof called === 'string' ? called.replace(/^[AV]_/, '').toLowerCase() : 'unknown';
  if (!stream || stream.parameters.codecId === AV_CODEC_ID_NONE)
    return { codec: fallback, parameters: null, isKnown: false };
  const isKnown =
    track.isVideoTrack() ||
    ((await isMp4(track)) ? WHOLE_IN_MP4.includes(stream.codec) : !TAKEN_APART.includes(stream.codec));
  return { codec: stream.codec, parameters: stream.parameters, isKnown };
}

/** How many channels a track of sound has, and at which rate it was coded (Hz). */
export async function soundOf(track: InputAudioTrack): Promise<{ channels: number; sampleRate: number }> {
  const { codec, parameters } = await codecOf(track);
  const isUntold = UNTOLD_IN_MP4.includes(codec) && (await isMp4(track));
  const told = parameters ?? (isUntold ? (await streamOf(track))?.parameters : null);
  if (told && told.channels > 0 && told.sampleRate > 0)
    return { channels: told.channels, sampleRate: told.sampleRate };
  return { channels: await track.getNumberOfChannels(), sampleRate: await track.getSampleRate() };
}

/** Tells whether a track of sound can be decoded here. */
export async function isReadable(track: InputAudioTrack): Promise<boolean> {
  const { codec, isKnown } = await codecOf(track);
  return isKnown && (isDecodedHere(codec) || (await track.canDecode()));
}

/** What a decoder is told of a track; null where nothing says it. @throws where the file is damaged there */
export async function configOf(track: InputTrack): Promise<DecoderConfig | null> {
  const { codec, parameters } = await codecOf(track);
  const description = parameters?.extradata ?? undefined;
  if (track.isAudioTrack()) {
    const { channels: numberOfChannels, sampleRate } = await soundOf(track);
    const config = parameters ? { codec, description } : await track.getDecoderConfig();
    return config && { ...config, sampleRate, numberOfChannels };
  }
  if (!track.isVideoTrack()) return null;
  if (!parameters) return track.getDecoderConfig();
  return { codec, codedWidth: parameters.width, codedHeight: parameters.height, description };
}

async function isMp4({ input }: InputTrack): Promise<boolean> {
  const format = await input.getFormat();
  return format === MP4 || format === QTFF;
}

/** Streams of sound and of pictures that the media library does not list: of MPEG-TS, it lists only what it knows. */
export async function unlistedIn(input: Input): Promise<KnownStream[]> {
  if ((await input.getFormat()) !== MPEG_TS) return [];
  const listed = (await input.getTracks()).map(({ id }) => id);
  return (await streamsIn(input)).filter(({ id }) => !listed.includes(id));
}

/** The stream of FFmpeg's that is a track: both count those of a kind in the order of the file. */
async function streamOf({ input, type, number }: InputTrack): Promise<KnownStream | null> {
  const tracks = (await input.getTracks()).filter((track) => track.type === type);
  const streams = (await streamsIn(input)).filter(({ kind }) => kind === type);
  return streams.length === tracks.length ? streams[number - 1] : null;
}

async function streamsIn(input: Input): Promise<KnownStream[]> {
  return (await knownFileOf(input))?.streams ?? [];
}

/** What FFmpeg knows of a file that is open; null where it cannot read it. */
export function knownFileOf(input: Input): Promise<KnownFile | null> {
  const before = knownOf.get(input);
  if (before) return before;
  const path = pathOf(input);
  const known = path ? knownFileAt(path) : Promise.resolve(null);
  knownOf.set(input, known);
  return known;
}
