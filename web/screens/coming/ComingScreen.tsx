import { ScreenTitle } from '../../parts/controls.tsx';

/** A station that is still to come: what it will hold, and what to do until then. */
export function ComingScreen({ name, promise }: { name: string; promise: string }) {
  return (
    <div className="px-5 py-3">
      <ScreenTitle title={name}>{promise}</ScreenTitle>
    </div>
  );
}
