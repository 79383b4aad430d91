import Sequencer from '@jest/test-sequencer';

/** Long ones in small files: Jest begins with the largest files, and would leave one of them to run alone at the end. */
const LONG = [
  'core/repair/rooms.test.ts',
  'core/sounding/clocks.test.ts',
  'attack/media.test.ts',
  'server/media/sounding.test.ts',
  'core/sounding/sounding.test.ts',
  'cli/recordings.test.ts',
  'server/deliver/join.test.ts',
  'attack/making.test.ts',
  'server/media/trackDecoder.test.ts',
];

/** Runs the longest test files first, so that both workers end at about the same time. */
export default class LongestFirst extends Sequencer {
  async sort(tests) {
    const sorted = await super.sort(tests);
    const isLong = ({ path }) => LONG.some((one) => path.replaceAll('\\', '/').endsWith(one));
    return [...sorted.filter(isLong), ...sorted.filter((test) => !isLong(test))];
  }
}
