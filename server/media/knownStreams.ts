import {
  AV_DISPOSITION_ATTACHED_PIC,
  AVMEDIA_TYPE_AUDIO,
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

/**
 * Reads what streams of sound and of pictures a file has, by its head and its first packets: FFmpeg knows codecs that the media library does not.
 * Covers and other single pictures that are attached to a file do not count.
 * @returns in the order of the file; none where it cannot be read
 */
export async function knownStreams(path: string): Promise<KnownStream[]> {
  const context = new FormatContext();
  // Said to be a file: a name with a colon would be taken for an address.
  if ((await context.openInput(`file:${path}`, null, null)) < 0) return [];
  try {
    await context.findStreamInfo(null);
    return context.streams.flatMap(({ id, codecpar, disposition }): KnownStream[] => {
      const kind = kindOf(codecpar);
      const codec = avGetCodecName(codecpar.codecId);
      if (!kind || !codec || (disposition & AV_DISPOSITION_ATTACHED_PIC) !== 0) return [];
      const parameters = new CodecParameters();
      parameters.alloc();
      return codecpar.copy(parameters) < 0 ? [] : [{ kind, id, codec, parameters }];
    });
  } finally {
    await context.closeInput();
  }
}

function kindOf({ codecType }: CodecParameters): KnownStream['kind'] | null {
  if (codecType === AVMEDIA_TYPE_AUDIO) return 'audio';
  return codecType === AVMEDIA_TYPE_VIDEO ? 'video' : null;
}
