export type Severity = 'stop' | 'warn' | 'note';

/** What a finding shows in its cell of the board, the gravest first. */
export const MARKS = ['leak', 'dry', 'gap', 'echo', 'stray', 'twice', 'off', 'hum'] as const;
export type Mark = (typeof MARKS)[number];

/** What a finding with a code is like. */
interface Code {
  /** The gravest that it can be. */
  severity: Severity;
  /** What it shows in its cell; none where it is about no cell, or another finding shows it there. */
  mark?: Mark;
  /** It is found in recordings alone. */
  isHeard?: true;
  /** When it stands, for the docs. */
  when: string;
}

/** Every code, the gravest first among those of one severity. The list, the types and the docs derive from this table. */
export const CODES = {
  'leak.live': {
    severity: 'stop',
    mark: 'leak',
    when: 'a source arrives at live, and is not cleared for it',
  },
  'leak.vod': {
    severity: 'stop',
    mark: 'leak',
    when: 'a source stays in the VOD, and is not cleared for it',
  },
  'leak.upload': {
    severity: 'stop',
    mark: 'leak',
    when: 'a source is in a track for publishing, and is not cleared for upload',
  },
  'in-file': {
    severity: 'stop',
    mark: 'leak',
    when: 'a source that must not be kept is in a track that is written to the file, the live track too',
  },
  feedback: {
    severity: 'stop',
    mark: 'echo',
    when: 'places feed each other, or a microphone reaches loudspeakers',
  },
  'echo.party': { severity: 'stop', mark: 'echo', when: 'friends hear their own voices' },
  uses: {
    severity: 'stop',
    when: 'two live or VOD tracks, or none where one is wanted; the VOD is to be recorded and is not; a track has no use',
  },
  'track-limit': { severity: 'stop', when: 'more tracks than the recorder has' },
  'scene-gap': {
    severity: 'stop',
    mark: 'gap',
    when: 'a wanted source is silent in some scene, at live, in the VOD or on a track (a warning there)',
  },
  missing: {
    severity: 'stop',
    mark: 'dry',
    when: 'a source is wanted and does not arrive, or below −60 dB; says how far it gets',
  },
  'off-level': {
    severity: 'warn',
    mark: 'off',
    when: 'a wanted source arrives 6 dB or more louder or quieter than wished',
  },
  'listening-in': {
    severity: 'warn',
    when: 'somebody listens in on a mix, which plays nowhere else meanwhile',
  },
  'open-loudspeakers': {
    severity: 'warn',
    when: 'loudspeakers are heard by an open microphone of their room, through the air',
  },
  stuck: {
    severity: 'warn',
    when: 'an app is silent though it plays, until its output is moved away and back',
  },
  'not-called': {
    severity: 'warn',
    when: 'a pickup asks for an app by a name that nothing has now',
  },
  swallowed: {
    severity: 'warn',
    when: 'a source plays into a device that nobody, or that not the creator, hears',
  },
  fused: {
    severity: 'warn',
    when: 'sources that are wanted in different places share a pickup',
  },
  doubled: {
    severity: 'warn',
    mark: 'twice',
    when: 'two or more copies arrive; a note where the others are over 15 dB below; an echo from 30 ms apart',
  },
  'echo.self': {
    severity: 'warn',
    mark: 'echo',
    when: 'the creator’s own voice in their headphones, over 10 ms late or twice',
  },
  unwanted: { severity: 'warn', mark: 'stray', when: 'a source arrives and is not wanted' },
  'no-own-track': {
    severity: 'warn',
    when: 'a source may be edited, and has no edit track to itself',
  },
  'double-processing': {
    severity: 'warn',
    when: 'the same processing twice on one path: of a source, a send, a mix or a track, or in devices that do it by themselves',
  },
  'hum-risk': {
    severity: 'warn',
    mark: 'hum',
    when: 'an analogue line without isolation carries a source to somebody',
  },
  drift: { severity: 'warn', when: 'the clocks at both ends of a link differ' },
  'rate-mismatch': {
    severity: 'warn',
    when: 'a link joins two sample rates without conversion',
  },
  'own-clock': {
    severity: 'warn',
    when: 'an input runs on a clock of its own, and is not driven together with a device that leads it',
  },
  'on-default': { severity: 'note', when: 'an app plays into the default device' },
  overruled: {
    severity: 'note',
    when: 'an app names its output itself, so that what its machine’s settings give to it does not count',
  },
  'player-volume': {
    severity: 'warn',
    when: 'an app’s own volume is below 100 %; a warning where it keeps the app 6 dB or more off its wish, else a note',
  },
  knot: {
    severity: 'note',
    when: 'a sound has more than 64 paths to one destination: all are added up, the loudest are listed',
  },
  hum: { severity: 'warn', isHeard: true, when: 'a recording hums' },
  noisy: {
    severity: 'warn',
    isHeard: true,
    when: 'noise lies less than 22 dB under a voice, what is done about it counted',
  },
  buried: { severity: 'warn', isHeard: true, when: 'words are buried under game and music' },
  clipping: { severity: 'warn', isHeard: true, when: 'a mix clips' },
  'off-target': {
    severity: 'note',
    isHeard: true,
    when: 'a mix is louder or quieter than its destination asks for',
  },
} as const satisfies Record<string, Code>;
export type FindingCode = keyof typeof CODES;

export const FINDING_CODES = Object.keys(CODES) as FindingCode[];

/** What a finding with a code shows in its cell; null for nothing. */
export function markOf(code: FindingCode): Mark | null {
  const { mark }: Code = CODES[code];
  return mark ?? null;
}
