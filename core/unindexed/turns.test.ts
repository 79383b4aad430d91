import { describe, expect, test } from '@jest/globals';
import { seededRandom } from '../audio/random.ts';
import { learnTurns, type TurnRule, Turns } from './turns.ts';

/** The tracks of the packets of a file, as a rule lays them. @param counts how many packets each track has, in the order of the rule */
function laid(rule: TurnRule, counts: number[]): number[] {
  const left = new Map(rule.order.map((track, place) => [track, counts[place]]));
  const turns = new Turns(rule);
  const sequence: number[] = [];
  for (let packets = counts.reduce((sum, count) => sum + count, 0); packets > 0; packets--) {
    const track = turns.next((one) => left.get(one) === 0);
    turns.took(track);
    left.set(track, (left.get(track) ?? 0) - 1);
    sequence.push(track);
  }
  return sequence;
}

const AT_48K = 1024 / 48_000;
const AT_44K = 1024 / 44_100;

describe('how tracks take turns', () => {
  const cases: [string, TurnRule][] = [
    [
      'packet by packet',
      { order: [2, 0, 1], packetS: [AT_48K, AT_48K, AT_48K], startS: [0, 0, 0], roundS: 0 },
    ],
    ['where one begins late', { order: [0, 1], packetS: [AT_48K, AT_48K], startS: [0, 4.2], roundS: 0 }],
    ['of two rates', { order: [1, 0, 2], packetS: [AT_44K, AT_48K, AT_48K], startS: [0, 0, 0], roundS: 0 }],
    ['in half seconds', { order: [0, 1], packetS: [AT_48K, AT_48K], startS: [0, 0], roundS: 0.5 }],
    [
      'in seconds, where each begins at another moment',
      { order: [1, 2, 0], packetS: [AT_48K, AT_48K, AT_48K], startS: [0.01, 0.3, 0.52], roundS: 1 },
    ],
    [
      'in rounds of 21 packets',
      { order: [0, 1], packetS: [AT_48K, AT_48K], startS: [0, 0], roundS: 21 * AT_48K },
    ],
  ];

  test.each(cases)('%s: is learned from a short file, and holds for a long one', (_, rule) => {
    const packetS = (track: number) => rule.packetS[rule.order.indexOf(track)];
    const learned = learnTurns(
      laid(
        rule,
        rule.order.map((_, place) => 900 - 7 * place),
      ),
      packetS,
    );
    expect(learned).not.toBeNull();
    const long = rule.order.map(() => 40_000);
    expect(laid(learned as TurnRule, long)).toEqual(laid(rule, long));
  });

  test('one track alone has all turns', () => {
    const rule = learnTurns([3, 3, 3], () => AT_48K);
    expect(rule && laid(rule, [4])).toEqual([3, 3, 3, 3]);
  });

  test('packets in no order are not learned', () => {
    const random = seededRandom(7);
    const sequence = Array.from({ length: 600 }, () => Math.floor(3 * random()));
    expect(learnTurns(sequence, () => AT_48K)).toBeNull();
  });

  test('one packet out of its turn is enough not to trust a rule', () => {
    const sequence = Array.from({ length: 600 }, (_, at) => at % 3);
    [sequence[300], sequence[301]] = [sequence[301], sequence[300]];
    expect(learnTurns(sequence, () => AT_48K)).toBeNull();
  });
});
