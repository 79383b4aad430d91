export type Severity = 'stop' | 'warn' | 'note';

/** What a finding with a code is about, and where it is looked for: `sound` needs the recordings. */
interface Code {
  /** The gravest that it can be. */
  severity: Severity;
  looksAt: 'cells' | 'source' | 'setup' | 'sound';
  /** When it stands, for the docs. */
  when: string;
}

/** Every code, the gravest first among those of one severity. The list, the types and the docs derive from this table. */
export const CODES = {
  'leak.live': {
    severity: 'stop',
    looksAt: 'cells',
    when: 'a source arrives at live, and is not cleared for it',
  },
  'leak.vod': {
    severity: 'stop',
    looksAt: 'cells',
    when: 'a source stays in the VOD, and is not cleared for it',
  },
  'leak.upload': {
    severity: 'stop',
    looksAt: 'cells',
    when: 'a source is in a track for publishing, and is not cleared for upload',
  },
  'in-file': {
    severity: 'stop',
    looksAt: 'cells',
    when: 'a source that must not be kept is in a track that is written to the file, the live track too',
  },
  feedback: {
    severity: 'stop',
    looksAt: 'setup',
    when: 'places feed each other, or a microphone reaches loudspeakers',
  },
  'echo.party': { severity: 'stop', looksAt: 'cells', when: 'friends hear their own voices' },
  uses: {
    severity: 'stop',
    looksAt: 'setup',
    when: 'two live or VOD tracks, or none where one is wanted; the VOD is to be recorded and is not; a track has no use',
  },
  'track-limit': { severity: 'stop', looksAt: 'setup', when: 'more tracks than the recorder has' },
  'scene-gap': {
    severity: 'stop',
    looksAt: 'cells',
    when: 'a wanted source is silent in some scene, at live, in the VOD or on a track (a warning there)',
  },
  missing: {
    severity: 'stop',
    looksAt: 'cells',
    when: 'a source is wanted and does not arrive, or below −60 dB; says how far it gets',
  },
  'off-level': {
    severity: 'warn',
    looksAt: 'cells',
    when: 'a wanted source arrives 6 dB or more louder or quieter than wished',
  },
  swallowed: {
    severity: 'warn',
    looksAt: 'source',
    when: 'a source plays into a device that nobody, or that not the creator, hears',
  },
  fused: {
    severity: 'warn',
    looksAt: 'setup',
    when: 'sources that are wanted in different places share a pickup',
  },
  doubled: {
    severity: 'warn',
    looksAt: 'cells',
    when: 'two or more copies arrive; a note where the others are over 15 dB below; an echo from 30 ms apart',
  },
  'echo.self': {
    severity: 'warn',
    looksAt: 'cells',
    when: 'the creator’s own voice in their headphones, over 10 ms late or twice',
  },
  unwanted: { severity: 'warn', looksAt: 'cells', when: 'a source arrives and is not wanted' },
  'no-own-track': {
    severity: 'warn',
    looksAt: 'source',
    when: 'a source may be edited, and has no edit track to itself',
  },
  'double-processing': {
    severity: 'warn',
    looksAt: 'source',
    when: 'the same processing twice on one path: of a source, a send, a mix or a track, or in devices that do it by themselves',
  },
  'hum-risk': {
    severity: 'warn',
    looksAt: 'setup',
    when: 'an analogue line without isolation carries a source to somebody',
  },
  drift: { severity: 'warn', looksAt: 'setup', when: 'the clocks at both ends of a link differ' },
  'rate-mismatch': {
    severity: 'warn',
    looksAt: 'setup',
    when: 'a link joins two sample rates without conversion',
  },
  'on-default': { severity: 'note', looksAt: 'source', when: 'an app plays into the default device' },
  'player-volume': {
    severity: 'warn',
    looksAt: 'source',
    when: 'an app’s own volume is below 100 %; a warning where it keeps the app 6 dB or more off its wish, else a note',
  },
  knot: {
    severity: 'note',
    looksAt: 'setup',
    when: 'a sound has more than 64 paths to one destination: all are added up, the loudest are listed',
  },
  hum: { severity: 'warn', looksAt: 'sound', when: 'a recording hums' },
  buried: { severity: 'warn', looksAt: 'sound', when: 'words are buried under game and music' },
  clipping: { severity: 'warn', looksAt: 'sound', when: 'a mix clips' },
  'off-target': {
    severity: 'note',
    looksAt: 'sound',
    when: 'a mix is louder or quieter than its destination asks for',
  },
} as const satisfies Record<string, Code>;
export type FindingCode = keyof typeof CODES;

export const FINDING_CODES = Object.keys(CODES) as FindingCode[];
