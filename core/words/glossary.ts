/** A word that is not everyday, and what it means, in a sentence or two that anybody understands. */
export interface GlossaryEntry {
  word: string;
  /** How else it is written in sentences, as regular expressions that match whole words. */
  forms: string[];
  means: string;
}

const entry = (word: string, means: string, ...forms: string[]): GlossaryEntry => ({
  word,
  means,
  forms: [word, ...forms],
});

/** Every word of the screens that a player may not know, in the order of the alphabet. */
export const GLOSSARY: readonly GlossaryEntry[] = [
  entry('bed', 'The game and the music, which lie under the voices.'),
  entry('cause', 'The one thing in your room that is wrong. It may bring several findings.', 'causes'),
  entry(
    'clearance',
    'Where you are allowed to use a sound: live, in the VOD, in an upload, in the edit.',
    'cleared',
  ),
  entry(
    'clips',
    'A sound is louder than its file or track can hold, so its tops are cut off and it crackles.',
    'clipping',
  ),
  entry('compressor', 'Makes loud moments quieter, so that a voice stays at one level.', 'compressors'),
  entry('dB', 'Decibel: a step of level. 6 dB more is clearly louder, 10 dB more sounds twice as loud.'),
  entry(
    'dBTP',
    'Decibels true peak: the highest point of a sound, between its samples too. 0 is the most that fits.',
  ),
  entry(
    'destination',
    'Where somebody listens: your headphones, friends, live, the VOD, a track of the file.',
    'destinations',
  ),
  entry('drift', 'Two devices count time a little differently, so a sound comes later and later.', 'drifts'),
  entry(
    'drill',
    'A what-if: an app restarts, a device is unplugged. Northfen shows what would happen; nothing is changed.',
    'drills',
  ),
  entry('dry', 'You want a sound here, and nothing arrives.'),
  entry('ducking', 'Game and music get quieter while somebody speaks.', 'duck', 'ducks'),
  entry('echo', 'A sound is heard again a little later: a voice comes back to its speaker, say.', 'echoes'),
  entry(
    'edit track',
    'A track of the recording with one sound by itself, for cutting the video later.',
    'edit tracks',
  ),
  entry('finding', 'A difference between what you want and what arrives.', 'findings'),
  entry('fold-down', 'Several channels are mixed to two, for people who listen in stereo.'),
  entry('fused', 'Two sounds come to the recorder as one, so you cannot send one without the other.'),
  entry('gap', 'A sound that you want is silent in some scene.'),
  entry(
    'hollow',
    'Two copies of a sound a few milliseconds apart take some pitches away; it sounds as in a pipe.',
  ),
  entry('hum', 'A steady low tone that an audio cable brings along from the power.', 'hums'),
  entry('isolator', 'A small box in an audio cable that stops hum between two machines.', 'isolated'),
  entry('latency', 'How late a sound arrives.'),
  entry('leak', 'A sound reaches people who must not get it.', 'leaks'),
  entry(
    'leveller',
    'Slowly makes a quiet voice louder and a loud one quieter, so that both stay in one range.',
    'levellers',
  ),
  entry(
    'limiter',
    'Holds the highest moments of a sound below a line, so that it does not clip.',
    'limiters',
  ),
  entry('live', 'What people hear while you stream.'),
  entry('LU', 'Loudness unit: a step of loudness, as large as 1 dB.'),
  entry('LUFS', 'How loud a sound is to people, over time. −16 is usual for a stream; less is quieter.'),
  entry('mix', 'Several sounds put together, each at its level, going out as one.', 'mixes'),
  entry('mix-minus', 'A mix of everything but one voice, for the person whose voice it is.'),
  entry('mono sum', 'Both sides of a stereo sound put together into one.', 'mono'),
  entry('noise gate', 'Closes while nobody speaks, so that the fan is not heard.', 'gate', 'gates'),
  entry('notch', 'A narrow range of pitches that is missing.'),
  entry('pickup', 'A place where the recorder takes sound from: a device, or one app.', 'pickups'),
  entry(
    'polarity',
    'Whether a wave pushes or pulls first. Two copies of opposite polarity take each other away.',
  ),
  entry('ppm', 'Parts per million: a clock that is 100 ppm fast gains a third of a second in an hour.'),
  entry(
    'proof',
    'Measured in a take: which sound is in which track, and which is not. It says no more than was tested.',
    'proven',
  ),
  entry('publish', 'The purpose of a track that is uploaded as it is.', 'publishing'),
  entry('reach', 'What really arrives, worked out over every path.'),
  entry('remedy', 'A change that mends a cause and leaves everything else alone.', 'remedies'),
  entry('send', 'How loud a pickup goes to one track. A closed send lets nothing through.', 'sends'),
  entry('stray', 'A sound arrives where you do not want it.'),
  entry('take', 'A recording that was rendered or brought in, with its tracks.', 'takes'),
  entry('true peak', 'The highest point of a sound, between its samples too.'),
  entry('twice', 'More than one copy of a sound arrives.'),
  entry(
    'virtual device',
    'An output that exists in the computer alone. What plays into it is heard only where it is picked up.',
    'virtual cable',
    'virtual devices',
  ),
  entry('VOD', 'The recording of your stream that stays online.'),
  entry('wish', 'What you want to be heard somewhere, and how loud.', 'wishes'),
];

/** Words of which nobody needs to be told in every sentence. */
const EVERYDAY = new Set([
  'live',
  'mix',
  'dB',
  'finding',
  'cause',
  'destination',
  'take',
  'bus',
  'dry',
  'twice',
  'reach',
]);

const WORDS = new Map(GLOSSARY.flatMap((one) => one.forms.map((form) => [form.toLowerCase(), one] as const)));
const PATTERN = new RegExp(
  `(?<![\\p{L}\\p{N}])(${[...WORDS.keys()].sort((a, b) => b.length - a.length).join('|')})(?![\\p{L}\\p{N}])`,
  'giu',
);

/** Returns the entry of a word, however it is written; undefined where the glossary has none. */
export function glossaryEntry(word: string): GlossaryEntry | undefined {
  return WORDS.get(word.toLowerCase());
}

/** Returns the entries of the words in a text that are not everyday, each once, in the order of the text. */
export function wordsIn(text: string): GlossaryEntry[] {
  const found = new Set<GlossaryEntry>();
  for (const [match] of text.matchAll(PATTERN)) {
    const one = glossaryEntry(match);
    if (one && !EVERYDAY.has(one.word)) found.add(one);
  }
  return [...found];
}
