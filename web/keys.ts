/** A key and what it does. */
export type Key = [key: string, what: string];

/** The keys that work on every screen. */
export const EVERYWHERE: Key[] = [
  ['Ctrl Z', 'take your last change back'],
  ['Ctrl Y', 'make it again'],
  ['P', 'listen, and stop (on every screen but Rehearse)'],
  ['G', 'go to the gravest finding'],
  ['?', 'show all keys'],
];

/** The keys of a screen, by its station. */
export const KEYS_OF: Record<string, Key[]> = {
  reach: [
    ['arrows', 'move on the board'],
    ['space', 'open or close'],
    ['+ −', '1 dB'],
    ['figures, Enter', 'set the level'],
    ['Home, End', 'first and last destination'],
    ['Alt ← →', 'on the name of a track: move it'],
  ],
  wiring: [
    ['F', 'find by name'],
    ['V', 'follow the next source (Shift: the one before)'],
  ],
  rehearse: [
    ['space', 'play, pause'],
    ['1 … 9', 'hear it as'],
    ['C', 'compare with the last'],
    ['↑ ↓', 'source'],
    ['+ −', 'level here'],
    ['[ ]', 'for all'],
    ['M', 'mute here'],
    ['Shift M', 'mute everywhere'],
    ['S', 'solo'],
    ['H', 'mute while held (Shift: everywhere)'],
    ['← →', '5 s'],
    ['N', 'next moment'],
    ['L', 'loop'],
    ['K', 'set a mark'],
  ],
};
