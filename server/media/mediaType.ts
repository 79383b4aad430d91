import { extname } from 'node:path';

/** The types of containers that browsers play, by extension; and of what is in other files, by codec. */
const BY_EXTENSION: ReadonlyMap<string, string> = new Map([
  ['.wav', 'audio/wav'],
  ['.flac', 'audio/flac'],
  ['.mp3', 'audio/mpeg'],
  ['.aac', 'audio/aac'],
  ['.ogg', 'audio/ogg'],
  ['.opus', 'audio/ogg'],
  ['.m4a', 'audio/mp4'],
  ['.mp4', 'audio/mp4'],
  ['.mov', 'audio/mp4'],
  ['.webm', 'audio/webm'],
  ['.mkv', 'audio/x-matroska'],
]);
const BY_CODEC: ReadonlyMap<string, string> = new Map([
  ['flac', 'audio/flac'],
  ['mp3', 'audio/mpeg'],
  ['aac', 'audio/aac'],
  ['opus', 'audio/ogg'],
  ['vorbis', 'audio/ogg'],
]);

/** Returns the content type of a recording: always one of sound, whatever its name says. */
export function mediaType(file: string, codec: string): string {
  const known = BY_EXTENSION.get(extname(file).toLowerCase()) ?? BY_CODEC.get(codec);
  return known ?? (codec.startsWith('pcm') ? 'audio/wav' : 'application/octet-stream');
}
