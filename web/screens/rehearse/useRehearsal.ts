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

/** Calls a function for every frame that is drawn. */
export function useEveryFrame(draw: () => void): void {
  useEffect(() => {
    let request = 0;
    const next = () => {
      draw();
      request = requestAnimationFrame(next);
    };
    request = requestAnimationFrame(next);
    return () => cancelAnimationFrame(request);
  }, [draw]);
}
