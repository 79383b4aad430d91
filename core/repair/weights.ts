/** A level is off its wish from this many dB on. */
export const OFF_FROM_DB = 1;

/**
 * How much each kind of trouble weighs; the unit has no meaning but for comparing. Sound without clearance weighs most, then a
 * loop, then wanted sound that does not arrive, then a level that is off, sound that is not wanted, copies, and the own voice late.
 * What is no trouble yet, but may become one, weighs least.
 */
export const WEIGHTS = {
  /** A source arrives where its clearance forbids it. */
  forbidden: 1000,
  /** A loop, or a microphone that its own loudspeakers play. */
  loop: 600,
  /** Friends hear themselves. */
  echo: 400,
  /** Tracks and uses that cannot be. */
  impossible: 300,
  /** A wanted source does not arrive, or too quietly to be heard. */
  missing: 100,
  /** A level is off its wish; for each dB, one more. */
  off: 3,
  unwanted: 40,
  /** A source shares its edit track, or has none. */
  shared: 30,
  /** A source plays into a device that nobody hears. */
  unheard: 30,
  /** Loudspeakers play into a microphone of their room. */
  air: 25,
  /** Somebody listens in on a mix. */
  listening: 5,
  /** A line hums, or two clocks or rates do not agree. */
  line: 20,
  /** Two processors of one kind on one path. */
  twice: 20,
  /** Copies that are heard as such. */
  copies: 15,
  /** The creator's own voice is late, or comes twice. */
  late: 10,
  /** An app's own volume is below 100 %. */
  turnedDown: 0.4,
  /** A device is turned down on its machine: more than the work of turning it up, so that nothing else makes up for it. */
  deviceDown: 1,
  /** An app plays into the default device, whichever that may be. */
  onDefault: 0.4,
  /** An app is silent though it plays. */
  stuck: 25,
  /** A pickup asks for an app by a name that nothing has. */
  notCalled: 25,
  /** What a machine's settings give to an app does not count. */
  overruled: 0.4,
  /** A track that is used for nothing. */
  idle: 0.4,
} as const;
export type TroubleKind = keyof typeof WEIGHTS;
/** A level counts as no further off than this (dB). */
export const MOST_OFF_DB = 60;

/** One thing that keeps a setup from what is wanted. */
export interface Trouble {
  kind: TroubleKind;
  /** Over all scenes in which it stands. */
  weight: number;
  /** In one of them. */
  inOne: number;
  source: string | null;
  destination: string | null;
  /** The scene in which it stands; null where it stands whatever the scene. */
  scene: string | null;
  /** What else it is about: a link, a loop, a track. */
  detail: string | null;
  /** What it is about, in one word: two troubles of one cell share it, whatever their kinds and scenes. */
  readonly place: string;
}
