import type { KeyboardEvent, PointerEvent, RefObject } from 'react';
import type { Processor } from '../../../core/processors/processing.ts';
import { dbAt, hzAt, PLOT, shareOfDb, shareOfHz } from './plot.ts';

type Filter = Extract<Processor, { does: 'band' | 'high-pass' }>;

/** An arrow key moves a knob by a twelfth of an octave, or by half a decibel. */
const KEY_RATIO = 2 ** (1 / 12);
const KEY_DB = 0.5;
const Q_RATIO = 1.2;

interface CurveKnobProps {
  step: Filter;
  /** Which step it is, counted from one. */
  number: number;
  /** What the plot is drawn in. */
  frame: RefObject<HTMLDivElement | null>;
  onDrag: (step: Filter) => void;
  onSet: (step: Filter) => void;
}

/** One filter of a curve: moved sideways it changes its frequency, upwards its gain. */
export function CurveKnob({ step, number, frame, onDrag, onSet }: CurveKnobProps) {
  const gainDb = step.does === 'band' ? step.gainDb : 0;
  const at = (event: PointerEvent): Filter => {
    const box = frame.current?.getBoundingClientRect();
    if (!box) return step;
    const hz = hzAt((event.clientX - box.left - PLOT.left) / (box.width - PLOT.left - PLOT.right));
    if (step.does === 'high-pass') return { ...step, hz };
    const share = (event.clientY - box.top - PLOT.top) / (box.height - PLOT.top - PLOT.bottom);
    return { ...step, hz, gainDb: dbAt(share) };
  };
  const onKeyDown = (event: KeyboardEvent) => {
    const next = moved(step, event.key, event.shiftKey);
    if (!next) return;
    event.preventDefault();
    event.stopPropagation();
    onSet(next);
  };
  return (
    <div
      role="slider"
      tabIndex={0}
      aria-label={`Filter of step ${number}`}
      aria-valuenow={step.hz}
      aria-valuemin={PLOT.lowHz}
      aria-valuemax={PLOT.highHz}
      aria-valuetext={step.does === 'band' ? `${step.hz} Hz, ${gainDb} dB, Q ${step.q}` : `${step.hz} Hz`}
      className="absolute flex h-5 w-5 -translate-x-1/2 -translate-y-1/2 cursor-grab touch-none items-center justify-center border border-water bg-paper text-xs text-water hover:bg-sunk active:cursor-grabbing"
      style={{
        left: `calc(${PLOT.left}px + (100% - ${PLOT.left + PLOT.right}px) * ${shareOfHz(step.hz)})`,
        top: `calc(${PLOT.top}px + (100% - ${PLOT.top + PLOT.bottom}px) * ${shareOfDb(gainDb)})`,
      }}
      onPointerDown={(event) => event.currentTarget.setPointerCapture(event.pointerId)}
      onPointerMove={(event) => {
        if (event.currentTarget.hasPointerCapture(event.pointerId)) onDrag(at(event));
      }}
      onPointerUp={(event) => onSet(at(event))}
      onKeyDown={onKeyDown}
    >
      {number}
    </div>
  );
}

/** What a key makes of a filter; null for keys that do nothing here. */
function moved(step: Filter, key: string, shift: boolean): Filter | null {
  const hz = (ratio: number) =>
    Number(Math.max(PLOT.lowHz, Math.min(PLOT.highHz, step.hz * ratio)).toPrecision(3));
  if (key === 'ArrowRight') return { ...step, hz: hz(KEY_RATIO) };
  if (key === 'ArrowLeft') return { ...step, hz: hz(1 / KEY_RATIO) };
  if (step.does === 'high-pass' || (key !== 'ArrowUp' && key !== 'ArrowDown')) return null;
  const up = key === 'ArrowUp';
  if (shift) {
    const q = step.q * (up ? Q_RATIO : 1 / Q_RATIO);
    return { ...step, q: Number(Math.max(0.1, Math.min(20, q)).toPrecision(2)) };
  }
  return { ...step, gainDb: Math.max(-24, Math.min(24, step.gainDb + (up ? KEY_DB : -KEY_DB))) };
}
