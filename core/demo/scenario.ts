/** What happens when in the demo session (s). The voices' lines are in assets/voices/lines.json. */
export const SCENARIO = {
  /** Bellbuoy rings for new members; the second time in the middle of the narrator's sentence of thanks. */
  memberBells: [22.4, 36.6, 63.5, 80.2],
  /** The machine's own notifications. */
  pings: [14.2, 49.7, 71.3],
  /** A clip plays in the browser. */
  clip: { fromS: 50.5, untilS: 57 },
  /** The handheld is switched on; its line input hums from then on. */
  handheld: { fromS: 24, untilS: 72 },
  /** Lock gates close with a thud. */
  gates: [16.4, 26.2, 40.5, 58.8, 75.6],
  /** Boat horns in the game. */
  horns: [3.2, 44.8, 61, 83.6],
} as const;
