/**
 * In which order the packets of several tracks lie in a file whose packets cannot be told apart by what they hold. What comes first lies first; or tracks
 * take turns: each has its packets of one round, then the next its own.
 */
export interface TurnRule {
  /** The tracks in the order of their turns. */
  order: number[];
  /** How long a packet of each lasts (s), in the order of the turns. */
  packetS: number[];
  /** When the first packet of each comes (s), as the order counts. */
  startS: number[];
  /** How long a round lasts (s); zero where what comes first lies first. */
  roundS: number;
}

/** What is no further apart comes at once (s, or rounds). */
const SAME = 1e-7;

/** Whose packet is next, by a rule. */
export class Turns {
  private readonly rule: TurnRule;
  /** How many packets of each track came so far, in the order of the turns. */
  private readonly counts: number[];

  constructor(rule: TurnRule) {
    this.rule = rule;
    this.counts = rule.order.map(() => 0);
  }

  /** @param isOver tells whether a track has no more packets; nothing tells so where a file breaks off */
  next(isOver: (track: number) => boolean = () => false): number {
    const { order, packetS, startS, roundS } = this.rule;
    let best = order[0];
    let first = Number.POSITIVE_INFINITY;
    for (let at = 0; at < order.length; at++) {
      const comesS = this.counts[at] * packetS[at] + startS[at];
      const turn = roundS > 0 ? Math.floor(comesS / roundS + SAME) : comesS;
      if (turn > first - SAME || isOver(order[at])) continue;
      best = order[at];
      first = turn;
    }
    return best;
  }

  took(track: number): void {
    this.counts[this.rule.order.indexOf(track)] += 1;
  }
}

/**
 * Learns in which order the packets of tracks lie.
 * @param sequence the tracks of all their packets, in the order in which they lie in a file that is whole
 * @param packetS how long a packet of a track lasts (s)
 * @returns null where they follow no such rule from the first packet to the last
 */
export function learnTurns(sequence: number[], packetS: (track: number) => number): TurnRule | null {
  const order = orderInTheMiddle(sequence);
  const startS = order.map(() => 0);
  if (order.length < 2) return { order, packetS: order.map(packetS), startS, roundS: 0 };
  // By their numbers where they come at once, as most programs do.
  const numbered = [...order].sort((one, other) => one - other);
  const atOnce = { order: numbered, packetS: numbered.map(packetS), startS, roundS: 0 };
  if (followsRule(sequence, atOnce)) return atOnce;
  const inTime = ruleInTime(sequence, order, order.map(packetS));
  if (inTime && followsRule(sequence, inTime)) return inTime;
  for (let turn = 0; turn < order.length; turn++) {
    const turned = [...order.slice(turn), ...order.slice(0, turn)];
    const rule = ruleInRounds(sequence, turned, turned.map(packetS));
    if (rule && followsRule(sequence, rule)) return rule;
  }
  return null;
}

/** The order of the tracks around the middle, where all of them have begun and none has ended. */
function orderInTheMiddle(sequence: number[]): number[] {
  const order = new Set(sequence.slice(Math.floor(sequence.length / 2)));
  return [...order, ...new Set(sequence.filter((track) => !order.has(track)))];
}

function followsRule(sequence: number[], rule: TurnRule): boolean {
  const left = new Map<number, number>();
  for (const track of sequence) left.set(track, (left.get(track) ?? 0) + 1);
  const turns = new Turns(rule);
  return sequence.every((track) => {
    const isNext = turns.next((one) => left.get(one) === 0) === track;
    turns.took(track);
    left.set(track, (left.get(track) ?? 0) - 1);
    return isNext;
  });
}

/** What comes first lies first: each packet narrows down by how much its track begins later than the others. @returns null where that is no order in time */
function ruleInTime(sequence: number[], order: number[], packetS: number[]): TurnRule | null {
  const later = mostLater(sequence, order, packetS);
  // What holds between two tracks by way of a third holds between them.
  const places = order.map((_, place) => place);
  for (const by of places)
    for (const one of places)
      for (const other of places)
        later[one][other] = Math.min(later[one][other], later[one][by] + later[by][other]);
  if (places.some((place) => later[place][place] < 0)) return null;
  const startS: number[] = [];
  for (const place of places) {
    const most = startS.reduce((least, start, at) => Math.min(least, start + later[place][at]), FAR_S);
    const least = startS.reduce((most, start, at) => Math.max(most, start - later[at][place]), -FAR_S);
    startS.push(place === 0 ? 0 : (least + most) / 2);
  }
  return { order, packetS, startS, roundS: 0 };
}

/** No track begins so much later than another (s). */
const FAR_S = 1e6;

/** By how much each track may begin later than each other (s), going by which packets lie before which. */
function mostLater(sequence: number[], order: number[], packetS: number[]): number[][] {
  const places = new Map(order.map((track, place) => [track, place]));
  const totals = order.map((track) => sequence.filter((one) => one === track).length);
  const counts = order.map(() => 0);
  const later = order.map(() => order.map(() => FAR_S));
  for (const track of sequence) {
    const place = places.get(track) ?? 0;
    const comesS = counts[place] * packetS[place];
    counts.forEach((count, other) => {
      if (other === place) return;
      const lengthS = packetS[other];
      // It lies behind the last packet of the other, and before its next.
      if (count > 0) later[other][place] = Math.min(later[other][place], comesS - (count - 1) * lengthS);
      if (count < totals[other])
        later[place][other] = Math.min(later[place][other], count * lengthS - comesS);
    });
    counts[place] += 1;
  }
  return later;
}

/** How much of each track there was at the end of a round (s), in which all had a turn or not. */
interface Round {
  isFull: boolean;
  sumsS: number[];
}

/** How much of each track there is by the end of each round: as many packets as begin before a regular time. */
function ruleInRounds(sequence: number[], order: number[], packetS: number[]): TurnRule | null {
  const rounds = fullRounds(roundsOf(sequence, order, packetS));
  const roundS = roundBetween(rounds, packetS);
  if (roundS === null) return null;
  const startS = order.map((_, place) => {
    const all = rounds.map(({ sumsS }, round) => (round + 1) * roundS - sumsS[place]);
    const most = all.reduce((one, other) => Math.max(one, other));
    const least = all.reduce((one, other) => Math.min(one, other));
    return (most + least + packetS[place]) / 2;
  });
  return { order, packetS, startS, roundS };
}

function roundsOf(sequence: number[], order: number[], packetS: number[]): Round[] {
  const places = new Map(order.map((track, place) => [track, place]));
  const counts = order.map(() => 0);
  const rounds: Round[] = [];
  let inRound = new Set<number>();
  let last = 0;
  const end = () =>
    rounds.push({
      isFull: inRound.size === order.length,
      sumsS: counts.map((count, place) => count * packetS[place]),
    });
  for (const track of sequence) {
    const place = places.get(track) ?? 0;
    if (place < last) {
      end();
      inRound = new Set();
    }
    inRound.add(place);
    last = place;
    counts[place] += 1;
  }
  end();
  return rounds;
}

/** The longest stretch of full rounds, without its first and its last: one may hold what came before others began, the other may be cut. */
function fullRounds(rounds: Round[]): Round[] {
  let longest = { from: 0, to: 0 };
  for (let from = 0; from < rounds.length; ) {
    let to = from;
    while (to < rounds.length && rounds[to].isFull) to += 1;
    if (to - from > longest.to - longest.from) longest = { from, to };
    from = Math.max(to, from + 1);
  }
  return rounds.slice(longest.from + 1, longest.to - 1);
}

/** So many rounds are compared with each other at most. */
const MOST_COMPARED = 400;

/** How long a round lasts (s): of all durations with which the rounds agree, the simplest fraction of a second, which somebody chose. */
function roundBetween(rounds: Round[], packetS: number[]): number | null {
  if (rounds.length < 2) return null;
  let low = 0;
  let high = Number.POSITIVE_INFINITY;
  const step = Math.ceil(rounds.length / MOST_COMPARED);
  for (let i = 0; i < rounds.length; i += step)
    for (let j = i + step; j < rounds.length; j += step)
      rounds[i].sumsS.forEach((sumS, place) => {
        const lastedS = rounds[j].sumsS[place] - sumS;
        low = Math.max(low, (lastedS - packetS[place]) / (j - i));
        high = Math.min(high, (lastedS + packetS[place]) / (j - i));
      });
  // Rounds of a packet would fit anything.
  if (!(low >= Math.max(...packetS) && low < high && high < Number.POSITIVE_INFINITY)) return null;
  // Or so many packets, which need not last for a simple fraction.
  const wholeS = rounds[1].sumsS[0] - rounds[0].sumsS[0];
  const isWhole = rounds.every(
    ({ sumsS }, at) => Math.abs(sumsS[0] - rounds[0].sumsS[0] - at * wholeS) < 1e-6,
  );
  return isWhole ? wholeS : simplestBetween(low, high);
}

/** The fraction with the smallest denominator between two numbers above zero. */
function simplestBetween(low: number, high: number): number {
  for (let denominator = 1; ; denominator++) {
    const numerator = Math.ceil(low * denominator);
    if (numerator <= high * denominator) return numerator / denominator;
  }
}
