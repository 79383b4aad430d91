import { ArrowLeft, Plus } from 'lucide-react';
import { type ReactNode, useEffect, useMemo, useState } from 'react';
import { Link, useNavigate, useSearchParams } from 'react-router';
import type { ReadyRoom } from '../../../core/plan/readyRooms.ts';
import { carriedOver, type Told, toldBy } from '../../../core/plan/replan.ts';
import { type Hardware, planRoom, type RoomSource } from '../../../core/plan/room.ts';
import type { Aims } from '../../../core/plan/tracks.ts';
import { safePresetOf } from '../../../core/setup/clearance.ts';
import { writeSetupFile } from '../../../core/setup/file.ts';
import type { Setup } from '../../../core/setup/schema.ts';
import { importSetup, useStoredSetup } from '../../api/setups.ts';
import { Blank, Button, fieldClass, ScreenTitle } from '../../parts/controls.tsx';
import { FigureField } from '../../parts/FigureField.tsx';
import { useNotify } from '../../parts/notices.tsx';
import { PlannedSources } from './PlannedSources.tsx';
import { PlanOutcome } from './PlanOutcome.tsx';
import { Questions } from './Questions.tsx';
import { ReadyRooms } from './ReadyRooms.tsx';

const FIRST: Told = {
  sources: [
    { name: 'My microphone', kind: 'microphone', preset: 'own' },
    { name: 'The game', kind: 'game', preset: 'own' },
    { name: 'Friends in the call', kind: 'voice chat', preset: 'liveAndVod' },
    { name: 'Music', kind: 'music', preset: 'liveOnly' },
    { name: 'Alerts', kind: 'alerts', preset: 'own' },
  ],
  aims: { live: true, vod: true, upload: true, tracks: 6 },
  hardware: { machines: 'one', desk: false },
};

/** What the recording may be for. */
const AIMS = [
  ['live', 'going live'],
  ['vod', 'a VOD that stays'],
  ['upload', 'a mix to upload as it is'],
] as const;

/** Starting from nothing; or, with the id of a setup in the address (`of`), going through the same questions for it again. */
export function PlanScreen() {
  const [params] = useSearchParams();
  const of = params.get('of');
  return of === null ? <Plan told={FIRST} /> : <PlanAgain of={of} />;
}

function PlanAgain({ of }: { of: string }) {
  const query = useStoredSetup(of);
  if (query.isPending) return <Blank title="Opening …" />;
  if (!query.data) {
    return (
      <Blank title="This setup cannot be opened">
        <p>{query.error?.message}</p>
        <Link to="/plan" className="text-water underline">
          Start from nothing
        </Link>
      </Blank>
    );
  }
  const { setup } = query.data;
  return <Plan key={of} told={toldBy(setup)} again={{ id: of, setup }} />;
}

/** Says who makes sound and how one works, and shows the setup that comes of it. */
function Plan({ told, again }: { told: Told; again?: { id: string; setup: Setup } }) {
  const navigate = useNavigate();
  const notify = useNotify();
  const [name, setName] = useState(again ? `${again.setup.name}, anew`.slice(0, 80) : 'My setup');
  const [sources, setSources] = useState<RoomSource[]>(told.sources);
  const [aims, setAims] = useState<Aims>(told.aims);
  const [hardware, setHardware] = useState<Hardware>(told.hardware);
  const [ready, setReady] = useState<string | null>(null);
  useEffect(() => {
    document.title = `${again ? 'The questions again' : 'Start from nothing'} – Northfen`;
  }, [again]);
  const named = useMemo(() => sources.filter((source) => source.name.trim() !== ''), [sources]);
  const plan = useMemo(() => {
    const made = planRoom(name.trim() || 'My setup', named, aims, hardware);
    return again ? { ...made, setup: carriedOver(again.setup, made.setup) } : made;
  }, [name, named, aims, hardware, again]);
  const make = () =>
    importSetup(writeSetupFile(plan.setup))
      .then((stored) => navigate(`/setups/${stored.id}/reach`))
      .catch((error: Error) => notify('trouble', error.message));
  const choose = (room: ReadyRoom) => {
    setReady(room.id);
    setHardware(room.hardware);
    setAims({ ...aims, ...room.aims });
  };
  return (
    <main className="grid h-full grid-cols-[minmax(0,1fr)] overflow-auto wide:grid-cols-[minmax(0,1fr)_25rem]">
      <div className="space-y-6 px-6 py-4 wide:overflow-auto narrow:px-3">
        <div>
          <Link
            to={again ? `/setups/${again.id}/wiring` : '/setups'}
            className="mb-1 inline-flex items-center gap-1 text-sm text-water"
          >
            <ArrowLeft size={14} /> {again ? again.setup.name : 'Setups'}
          </Link>
          <ScreenTitle title={again ? 'The questions again' : 'Start from nothing'}>
            {again
              ? 'A new setup comes of it, with the recordings and clearances of this one. This one stays as it is.'
              : 'Choose a room that is like yours, or answer the questions. What comes of it stands beside it.'}
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
        <Section title="Ready rooms">
          <ReadyRooms sources={named} tracks={aims.tracks} chosen={ready} onChoose={choose} />
        </Section>
        <Section
          title="Who makes sound"
          aside={
            <Button
              onClick={() =>
                setSources([...sources, { name: '', kind: 'browser', preset: safePresetOf('browser') }])
              }
            >
              <Plus size={14} /> Source
            </Button>
          }
        >
          <p className="py-1 text-sm text-soft">
            The order is their claim to a track of their own: the first keep one when there are too few.
          </p>
          <PlannedSources sources={sources} hasTwo={hardware.machines === 'two'} onChange={setSources} />
        </Section>
        <Section title="How you work">
          <Questions
            hardware={hardware}
            onChange={(next) => {
              setReady(null);
              setHardware(next);
            }}
          />
        </Section>
        <Section title="What it is for">
          <div className="flex flex-wrap items-center gap-x-8 gap-y-2 py-2">
            {AIMS.map(([aim, words]) => (
              <label key={aim} className="flex items-center gap-2">
                <input
                  type="checkbox"
                  checked={aims[aim]}
                  onChange={(event) => setAims({ ...aims, [aim]: event.target.checked })}
                />
                {words}
              </label>
            ))}
            <span className="flex items-center gap-2">
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
            </span>
          </div>
        </Section>
      </div>
      <PlanOutcome plan={plan} canMake={named.length > 0} onMake={make} />
    </main>
  );
}

function Section({ title, aside, children }: { title: string; aside?: ReactNode; children: ReactNode }) {
  return (
    <section>
      <div className="flex items-end justify-between border-b-2 border-ink pb-1">
        <h2 className="font-title text-lg">{title}</h2>
        {aside}
      </div>
      {children}
    </section>
  );
}
