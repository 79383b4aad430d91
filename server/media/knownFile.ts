import {
  AV_DISPOSITION_ATTACHED_PIC,
  AVMEDIA_TYPE_ATTACHMENT,
  AVMEDIA_TYPE_AUDIO,
  AVMEDIA_TYPE_SUBTITLE,
  AVMEDIA_TYPE_VIDEO,
  avGetCodecName,
  CodecParameters,
  FormatContext,
} from 'node-av';

/** A stream of sound or of pictures, as FFmpeg's reader knows it. */
export interface KnownStream {
  kind: 'audio' | 'video';
  /** Its number in MPEG-TS and MP4; other containers may have none. */
  id: number;
  /** FFmpeg's name of the codec. */
  codec: string;
  /** All that decoders and containers are told of it. */
  parameters: CodecParameters;
}

/** A file, as FFmpeg's reader knows it. */
export interface KnownFile {
  /** FFmpeg's name of its kind, and a longer one. */
  kind: string;
  kindName: string;
  /** In the order of the file. */
  streams: KnownStream[];
  /** What else is in it, in words: subtitles, timecode, chapters of MP4, attached files. */
  others: string[];
}

/**
 * Reads what streams of sound and of pictures a file has, by its head and its first packets: FFmpeg knows kinds and codecs that the media library
 * does not. Covers and other single pictures that are attached to a file do not count.
 * @returns null where it cannot be read
 */
export async function knownFileAt(path: string): Promise<KnownFile | null> {
  const context = new FormatContext();
  // Said to be a file: a name with a colon would be taken for an address.
  if ((await context.openInput(`file:${path}`, null, null)) < 0) return null;
  try {
    await context.findStreamInfo(null);
    const kind = context.iformat?.name ?? '';
    const streams = context.streams.flatMap(({ id, codecpar, disposition }): KnownStream[] => {
      const kindOfStream = kindOf(codecpar);
      const codec = avGetCodecName(codecpar.codecId);
      if (!kindOfStream || !codec || (disposition & AV_DISPOSITION_ATTACHED_PIC) !== 0) return [];
      const parameters = new CodecParameters();
      parameters.alloc();
      return codecpar.copy(parameters) < 0 ? [] : [{ kind: kindOfStream, id, codec, parameters }];
    });
    const others = context.streams.flatMap(({ codecpar, disposition }) =>
      kindOf(codecpar) && (disposition & AV_DISPOSITION_ATTACHED_PIC) === 0 ? [] : [otherWords(codecpar)],
    );
    return { kind, kindName: context.iformat?.longName ?? kind, streams, others };
  } finally {
    await context.closeInput();
  }
}

function kindOf({ codecType }: CodecParameters): KnownStream['kind'] | null {
  if (codecType === AVMEDIA_TYPE_AUDIO) return 'audio';
  return codecType === AVMEDIA_TYPE_VIDEO ? 'video' : null;
}

/** Data in MP4 and MOV by the tags of their codecs. */
const DATA_TAGS: Record<string, string> = { tmcd: 'timecode', text: 'chapters' };

/** What a stream is that is neither sound nor picture. */
function otherWords({ codecType, codecId, codecTagString }: CodecParameters): string {
  if (codecType === AVMEDIA_TYPE_SUBTITLE) return 'subtitles';
  if (codecType === AVMEDIA_TYPE_VIDEO) return 'a cover';
  if (codecType === AVMEDIA_TYPE_ATTACHMENT) return 'an attached file';
  return DATA_TAGS[codecTagString ?? ''] ?? `data (${codecTagString?.trim() || avGetCodecName(codecId)})`;
}
