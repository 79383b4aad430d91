import { useEffect, useMemo, useState, useSyncExternalStore } from 'react';
import { compileEars } from '../../../core/engine/ears.ts';
import { type Mute, silencedBy } from '../../../core/routing/mutes.ts';
import { reachOf } from '../../../core/routing/reach.ts';
import type { Setup } from '../../../core/setup/schema.ts';
import { Transport } from '../../audio/transport.ts';

/** A transport for the setup, which follows its changes and what is muted for now. */
export function useTransport(setup: Setup, mutes: Mute[], endS: number) {
  const rehearsable = useMemo(() => {
    const silenced = silencedBy(setup, reachOf(setup), mutes);
    return compileEars(setup, { silenced });
  }, [setup, mutes]);
  const shape = JSON.stringify([
    setup.sources.map(({ id, media }) => [id, media?.path]),
    rehearsable.ears.map(({ id }) => id),
    endS,
  ]);
  const [transport, setTransport] = useState<Transport | null>(null);

  // biome-ignore lint/correctness/useExhaustiveDependencies: a new one is needed only for other sources, ears or lengths
  useEffect(() => {
    if (endS === 0) return;
    const made = new Transport(
      rehearsable,
      setup.sources.map(({ media }) => media?.path ?? null),
      endS,
    );
    setTransport(made);
    return () => made.close();
  }, [shape]);

  useEffect(() => transport?.rearrange(rehearsable), [transport, rehearsable]);
  return { transport, ears: rehearsable.ears };
}

const IDLE = { status: 'idle', message: null, ear: 0, loop: null } as const;

/** What the transport does, kept up to date. */
export function useTransportState(transport: Transport | null) {
  return useSyncExternalStore(transport?.subscribe ?? (() => () => {}), () => transport?.state ?? IDLE);
}

/** Meters and the place that is played are drawn this often (ms): more would take the processor from the sound. */
const DRAWN_EVERY_MS = 40;
const drawings = new Set<() => void>();
let lastDrawnMs = 0;

function drawAll(nowMs: number): void {
  if (nowMs - lastDrawnMs >= DRAWN_EVERY_MS) {
    lastDrawnMs = nowMs;
    for (const draw of drawings) draw();
  }
  if (drawings.size > 0) requestAnimationFrame(drawAll);
}

/** Calls a function whenever what moves is drawn, about 25 times a second; all of them together. */
export function useEveryFrame(draw: () => void): void {
  useEffect(() => {
    if (drawings.size === 0) requestAnimationFrame(drawAll);
    drawings.add(draw);
    return () => {
      drawings.delete(draw);
    };
  }, [draw]);
}
