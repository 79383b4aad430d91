import type { ClockGroup, PlayedOn } from './byClock.ts';
import type { CodeSides } from './code.ts';
import { codeNames } from './code.ts';
import type { Code, PeriodSpectra } from './spectra.ts';
import type { Stretch } from './stretch.ts';

/** A code, and which side of its source it is. */
export interface SideCode extends Code {
  side: number;
}

/**
 * Whose codes are looked for on which channels. Each source has a player; where it came over another clock on some channels (by way of the air
 * into a microphone that has one of its own), it has a second one for those. Players are counted as the sources are, then those that were added.
 */
export class Players {
  readonly codes: SideCode[];
  /** When each sounds, by its own clock, as far as that is known. */
  readonly stretches: (Stretch | null)[];
  /** The source of each. */
  private readonly sourceOf: number[];
  /** Those that were added, by their sources and clocks; and where each is looked for. */
  private readonly added = new Map<number, { clock: ClockGroup; on: Set<number> }>();
  private readonly notOn = new Map<number, Set<number>>();

  constructor(spectra: PeriodSpectra, sources: { id: string; sides: CodeSides }[]) {
    this.codes = sources.flatMap(({ id, sides }, player) =>
      codeNames(id, sides).map((name, side) => ({ ...spectra.codeNamed(name, player), side })),
    );
    this.stretches = sources.map(() => null);
    this.sourceOf = sources.map((_, source) => source);
  }

  /** The players of a source. */
  of(source: number): number[] {
    return this.sourceOf.flatMap((one, player) => (one === source ? [player] : []));
  }

  /** The codes of the players that are looked for on a channel. */
  codesOn(channel: number): SideCode[] {
    return this.codes.filter(({ source }) => this.isOn({ channel, player: source }));
  }

  /** Tells whether a player is looked for on a channel. */
  isOn({ channel, player }: PlayedOn): boolean {
    const added = this.added.get(player);
    return added ? added.on.has(channel) : !this.notOn.get(player)?.has(channel);
  }

  /** The clocks with those of their players that are looked for on a channel. */
  clocksOn(channel: number, clocks: ClockGroup[]): ClockGroup[] {
    return clocks.map(({ drift, sources }) => ({
      drift,
      sources: new Set([...sources].filter((player) => this.isOn({ channel, player }))),
    }));
  }

  /**
   * Has the source of a player looked for on a channel by another clock.
   * @param isInstead it is not looked for by the player's clock there any more
   * @returns the player of that clock
   */
  alsoBy(clock: ClockGroup, { channel, player }: PlayedOn, isInstead: boolean): number {
    const source = this.sourceOf[player];
    const known = [...this.added].find(
      ([one, added]) => this.sourceOf[one] === source && added.clock === clock,
    );
    const other = known?.[0] ?? this.add(source, clock);
    this.added.get(other)?.on.add(channel);
    if (isInstead) {
      const added = this.added.get(player);
      if (added) added.on.delete(channel);
      else this.notOn.set(player, new Set([...(this.notOn.get(player) ?? []), channel]));
    }
    return other;
  }

  private add(source: number, clock: ClockGroup): number {
    const player = this.sourceOf.length;
    this.sourceOf.push(source);
    // It sounds when the source does.
    this.stretches.push(this.stretches[source]);
    this.codes.push(
      ...this.codes.filter((code) => code.source === source).map((code) => ({ ...code, source: player })),
    );
    this.added.set(player, { clock, on: new Set() });
    clock.sources.add(player);
    return player;
  }
}
