import { useCallback, useRef } from 'react';
import type { Transport } from '../audio/transport.ts';
import { formatClock } from '../format.ts';
import { useEveryFrame } from './useEveryFrame.ts';

/** Where it plays, in minutes and seconds; drawn by itself while everything round it rests. */
export function PlayedAt({ transport, testId }: { transport: Transport; testId: string }) {
  const text = useRef<HTMLSpanElement>(null);
  const draw = useCallback(() => {
    const now = formatClock(Math.floor(transport.timeS()));
    if (text.current && text.current.textContent !== now) text.current.textContent = now;
  }, [transport]);
  useEveryFrame(draw);
  return (
    <span ref={text} data-testid={testId}>
      0:00
    </span>
  );
}
