import { ArrowLeft, Plus } from 'lucide-react';
import { useEffect, useMemo, useState } from 'react';
import { Link, useNavigate } from 'react-router';
import { findingsOf } from '../../../core/findings/findings.ts';
import { type Hardware, planRoom, type RoomSource } from '../../../core/plan/room.ts';
import type { Aims } from '../../../core/plan/tracks.ts';
import { safePresetOf } from '../../../core/setup/clearance.ts';
import { writeSetupFile } from '../../../core/setup/file.ts';
import { importSetup } from '../../api/setups.ts';
import { today } from '../../format.ts';
import { Button, fieldClass, ScreenTitle } from '../../parts/controls.tsx';
import { FigureField } from '../../parts/FigureField.tsx';
import { useNotify } from '../../parts/notices.tsx';
import { PlannedSources } from './PlannedSources.tsx';

const FIRST: RoomSource[] = [
  { name: 'My microphone', kind: 'microphone', preset: 'own' },
  { name: 'The game', kind: 'game', preset: 'own' },
  { name: 'Friends in the call', kind: 'voice chat', preset: 'liveAndVod' },
  { name: 'Music', kind: 'music', preset: 'liveOnly' },
  { name: 'Alerts', kind: 'alerts', preset: 'own' },
];

/** Starting from nothing: name the sources, say what hardware there is, and see the setup that comes of it. */
export function PlanScreen() {
  const navigate = useNavigate();
  const notify = useNotify();
  const [name, setName] = useState('My setup');
  const [sources, setSources] = useState<RoomSource[]>(FIRST);
  const [aims, setAims] = useState<Aims>({ live: true, vod: true, upload: true, tracks: 6 });
  const [hardware, setHardware] = useState<Hardware>({ machines: 'one', desk: false });
  useEffect(() => {
    document.title = 'Start from nothing – Northfen';
  }, []);
  const named = sources.filter((source) => source.name.trim() !== '');
  const plan = useMemo(
    () => planRoom(name.trim() || 'My setup', named, aims, hardware),
    [name, named, aims, hardware],
  );
  const findings = useMemo(() => findingsOf(plan.setup, today()), [plan]);
  const make = () =>
    importSetup(writeSetupFile(plan.setup))
      .then((stored) => navigate(`/setups/${stored.id}/reach`))
      .catch((error: Error) => notify('trouble', error.message));
  return (
    <main className="grid h-full grid-cols-[minmax(0,1fr)] overflow-auto wide:grid-cols-[minmax(0,1fr)_25rem]">
      <div className="space-y-6 px-6 py-4 wide:overflow-auto narrow:px-3">
        <div>
          <Link to="/setups" className="mb-1 inline-flex items-center gap-1 text-sm text-water">
            <ArrowLeft size={14} /> Setups
          </Link>
          <ScreenTitle title="Start from nothing">
            Say who makes sound and what you have. What comes of it stands beside it.
          </ScreenTitle>
        </div>
        <label className="block">
          <span className="text-sm text-soft">Name of the setup</span>
          <input
            className={`${fieldClass} block w-72`}
            value={name}
            maxLength={80}
            onChange={(event) => setName(event.target.value)}
          />
        </label>
        <section>
          <div className="flex items-end justify-between border-b-2 border-ink pb-1">
            <h2 className="font-title text-lg">Who makes sound</h2>
            <Button
              onClick={() =>
                setSources([...sources, { name: '', kind: 'browser', preset: safePresetOf('browser') }])
              }
            >
              <Plus size={14} /> Source
            </Button>
          </div>
          <p className="py-1 text-sm text-soft">
            The order is their claim to a track of their own: the first keep one when there are too few.
          </p>
          <PlannedSources sources={sources} hasTwo={hardware.machines === 'two'} onChange={setSources} />
        </section>
        <section>
          <h2 className="border-b-2 border-ink pb-1 font-title text-lg">What you have</h2>
          <div className="flex flex-wrap items-center gap-x-8 gap-y-2 py-2">
            {(['one', 'two'] as const).map((machines) => (
              <label key={machines} className="flex items-center gap-2">
                <input
                  type="radio"
                  name="machines"
                  checked={hardware.machines === machines}
                  onChange={() => setHardware({ ...hardware, machines })}
                />
                {machines === 'one' ? 'one computer' : 'two: one plays, one streams'}
              </label>
            ))}
            <label className="flex items-center gap-2">
              <input
                type="checkbox"
                checked={hardware.desk}
                onChange={(event) => setHardware({ ...hardware, desk: event.target.checked })}
              />
              a desk for the microphone
            </label>
            <label className="flex items-center gap-2">
              <input
                type="checkbox"
                checked={hardware.loudspeakers ?? false}
                onChange={(event) => setHardware({ ...hardware, loudspeakers: event.target.checked })}
              />
              I listen on loudspeakers
            </label>
            <div className="flex items-center gap-2">
              <FigureField
                label="Tracks of the recorder"
                value={aims.tracks}
                unit=""
                min={1}
                max={32}
                step={1}
                live
                onChange={(tracks) => setAims({ ...aims, tracks: Math.round(tracks ?? aims.tracks) })}
              />
              tracks in the recorder
            </div>
          </div>
        </section>
        <section>
          <h2 className="border-b-2 border-ink pb-1 font-title text-lg">What it is for</h2>
          <div className="flex flex-wrap gap-x-8 gap-y-2 py-2">
            {(
              [
                ['live', 'going live'],
                ['vod', 'a VOD that stays'],
                ['upload', 'a mix to upload as it is'],
              ] as const
            ).map(([aim, words]) => (
              <label key={aim} className="flex items-center gap-2">
                <input
                  type="checkbox"
                  checked={aims[aim]}
                  onChange={(event) => setAims({ ...aims, [aim]: event.target.checked })}
                />
                {words}
              </label>
            ))}
          </div>
        </section>
      </div>
      <aside
        aria-label="What comes of it"
        className="flex flex-col gap-4 border-rule bg-sheet px-5 py-4 wide:overflow-auto wide:border-l narrow:border-t-2"
      >
        <h2 className="font-title text-lg">What comes of it</h2>
        <ol aria-label="Tracks" className="border-t border-rule">
          {plan.setup.tracks.map((track, index) => (
            <li key={track.id} className="flex gap-3 border-b border-rule py-1">
              <span className="w-4 text-right text-soft">{index + 1}</span>
              <span>
                <span className="font-semibold">{track.name}</span>
                <span className="block text-[13px] leading-snug text-soft">
                  {onTrack(plan.setup, track.id) || 'nothing'}
                </span>
              </span>
            </li>
          ))}
        </ol>
        <section aria-label="Reasons">
          <h3 className="text-xs text-soft">Why</h3>
          <ul className="list-disc space-y-1 pl-4 text-sm">
            {plan.reasons.map((reason) => (
              <li key={reason}>{reason}</li>
            ))}
            <li>
              {plan.setup.devices.filter((one) => one.kind === 'virtual').length} virtual devices,{' '}
              {plan.setup.links.length} links, {plan.setup.pickups.length} pickups;{' '}
              {findings.length === 0 ? 'no finding stands.' : `${findings.length} to look at in Reach.`}
            </li>
          </ul>
        </section>
        <Button weight="main" className="self-start" disabled={named.length === 0} onClick={make}>
          Make this setup
        </Button>
      </aside>
    </main>
  );
}

/** The names of the sources that are wanted on a track, or at what it feeds. */
function onTrack(setup: ReturnType<typeof planRoom>['setup'], trackId: string): string {
  const track = setup.tracks.find((one) => one.id === trackId);
  const places = [trackId, ...(track?.uses ?? [])];
  const ids = new Set(
    setup.intent.filter((wish) => places.includes(wish.destination)).map((wish) => wish.source),
  );
  return setup.sources
    .filter((source) => ids.has(source.id))
    .map((source) => source.name)
    .join(', ');
}
