import type { Hardware } from './room.ts';

/** One answer to a question: its words, and in a sentence what comes of it. */
export interface Answer {
  words: string;
  comes: string;
  /** What it says about the hardware. */
  means: Partial<Hardware>;
}

/** A question about how somebody works, in the words in which they would answer it. */
export interface Question {
  id: string;
  asks: string;
  /** Whether it is asked, given what was answered before. */
  isAsked: (hardware: Hardware) => boolean;
  answers: Answer[];
}

const always = () => true;
const isOne = ({ machines }: Hardware) => machines === 'one';
const isByDevice = ({ takes }: Hardware) => takes !== 'apps';

/** The questions of “Start from nothing”, in their order; what is answered decides which come next. */
export const QUESTIONS: readonly Question[] = [
  {
    id: 'machines',
    asks: 'How many computers do you use?',
    isAsked: always,
    answers: [
      {
        words: 'One',
        comes: 'It plays the game and records it.',
        means: { machines: 'one' },
      },
      {
        words: 'Two',
        comes: 'One plays, the other records. Each sound crosses by a cable or over the network.',
        means: { machines: 'two', playsBack: false },
      },
    ],
  },
  {
    id: 'desk',
    asks: 'What does your microphone go into?',
    isAsked: always,
    answers: [
      { words: 'The computer', comes: 'The microphone is one of its inputs.', means: { desk: false } },
      {
        words: 'A small desk',
        comes:
          'The desk hands the microphone over to the recorder, and to the chat where that runs elsewhere.',
        means: { desk: true },
      },
    ],
  },
  {
    id: 'listen',
    asks: 'Do you listen on loudspeakers?',
    isAsked: always,
    answers: [
      {
        words: 'No, on headphones',
        comes: 'Your microphone hears you alone.',
        means: { loudspeakers: false },
      },
      {
        words: 'Yes',
        comes: 'Your microphone hears them too, about 30 dB quieter. Northfen says what that costs.',
        means: { loudspeakers: true },
      },
    ],
  },
  {
    id: 'takes',
    asks: 'How does your recorder get the sound of your apps?',
    isAsked: always,
    answers: [
      {
        words: 'From an output for each app',
        comes: 'Each app plays into a virtual device of its own, and a mix brings them all to your ears.',
        means: { takes: 'devices' },
      },
      {
        words: 'It takes each app by itself',
        comes:
          'The apps play into your output as they are, and no virtual device is needed where they are recorded.',
        means: { takes: 'apps', chatMix: false, studio: false },
      },
    ],
  },
  {
    id: 'given',
    asks: 'Where do you choose which output an app plays into?',
    isAsked: isByDevice,
    answers: [
      { words: 'In the app itself', comes: 'Each app names its output.', means: { isGiven: false } },
      {
        words: 'In the sound settings of the computer',
        comes: 'The apps leave the choice to the computer, which gives each one its output.',
        means: { isGiven: true },
      },
    ],
  },
  {
    id: 'playback',
    asks: 'Does your recorder play the music back to you?',
    isAsked: isOne,
    answers: [
      { words: 'No', comes: 'You hear the music directly.', means: { playsBack: false } },
      {
        words: 'Yes',
        comes: 'You hear the music from the recorder, 25 ms late, and so what you hear is what is recorded.',
        means: { playsBack: true },
      },
    ],
  },
  {
    id: 'chat',
    asks: 'What does your chat app take as its microphone?',
    isAsked: isByDevice,
    answers: [
      {
        words: 'The microphone',
        comes: 'Your friends hear you, and nothing else.',
        means: { chatMix: false },
      },
      {
        words: 'A mix of microphone and game',
        comes: 'Your friends hear you and the game, never themselves, nor the music.',
        means: { chatMix: true },
      },
    ],
  },
  {
    id: 'studio',
    asks: 'Does a mix go anywhere else, like to a web studio?',
    isAsked: isByDevice,
    answers: [
      { words: 'No', comes: 'Live, VOD, the file and your friends are all.', means: { studio: false } },
      {
        words: 'Yes',
        comes: 'A web studio takes a mix of microphone and game as its microphone.',
        means: { studio: true },
      },
    ],
  },
];

/** Returns the questions that are asked, given what was answered so far. */
export function questionsFor(hardware: Hardware): Question[] {
  return QUESTIONS.filter(({ isAsked }) => isAsked(hardware));
}

/** Returns the answer that some hardware gives to a question; the first where it says nothing. */
export function answerTo({ answers }: Question, hardware: Hardware): Answer {
  const isGiven = ({ means }: Answer, at: number) => {
    const [key, value] = Object.entries(means)[0] as [keyof Hardware, unknown];
    return (hardware[key] ?? answers[0].means[key]) === value || (at === 0 && hardware[key] === undefined);
  };
  return answers.find(isGiven) ?? answers[0];
}

/** Returns the hardware once a question was answered; what is not asked any more is as if it was never said. */
export function answered(hardware: Hardware, { means }: Answer): Hardware {
  const next: Hardware = { ...hardware, ...means };
  for (const question of QUESTIONS)
    if (!question.isAsked(next)) Object.assign(next, question.answers[0].means);
  return next;
}
