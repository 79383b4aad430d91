import { Pause, Play } from 'lucide-react';
import type { CheckPlan, PlannedTrack } from '../../../core/check/plan.ts';
import { sumWords } from '../../../core/check/proposals.ts';
import { doublingWords, type InspectedTrack, type InspectedTracks } from '../../../core/check/recording.ts';
import type { Relation } from '../../../core/measure/relations.ts';
import { formatLevel } from '../../format.ts';
import { Button, fieldClass } from '../../parts/controls.tsx';
import { TableHead } from '../../parts/TableHead.tsx';
import { Outline } from './Outline.tsx';
import { usePassages } from './passages.tsx';
import { UseToggles } from './UseToggles.tsx';

/** The tracks of a recording: how each sounds, what it carries, where it goes, and for what that is not allowed. */
export function TrackTable({
  inspected,
  plan,
  onPlan,
}: {
  inspected: InspectedTracks;
  plan: CheckPlan;
  onPlan: (plan: CheckPlan) => void;
}) {
  const change = (at: number, values: Partial<PlannedTrack>) =>
    onPlan({ ...plan, tracks: plan.tracks.map((one, i) => (i === at ? { ...one, ...values } : one)) });
  return (
    <section aria-label="Tracks">
      <h2 className="border-b-2 border-ink pb-1 font-title text-xl">Tracks</h2>
      <table className="stacking w-full border-collapse text-left text-sm" aria-label="Tracks">
        <TableHead titles={['Track', 'Sound', 'Carries', 'Goes to', 'Not allowed for']} />
        <tbody>
          {inspected.tracks.map((track, at) => {
            const planned = plan.tracks[at];
            const name = `track ${at + 1}`;
            return (
              planned && (
                <tr key={track.index} className="border-b border-rule align-top">
                  <th scope="row" className="w-40 max-w-40 py-2 pr-3 text-left font-normal">
                    <span className="flex items-start gap-2">
                      <HearTrack number={at + 1} durationS={track.durationS} />
                      <span className="min-w-0">
                        <span className="block font-semibold break-words">
                          {at + 1} {track.name ?? ''}
                        </span>
                        <span className="block text-xs text-soft">
                          {track.codec.replace('pcm-', 'PCM ')}, {track.sampleRate / 1000} kHz
                        </span>
                      </span>
                    </span>
                  </th>
                  <td className="py-2 pr-3" data-title="Sound">
                    <Outline outline={track.outline} label={`Waveform of ${name}`} className="h-8" />
                    <span className="text-xs text-soft">{soundWords(track, inspected.relations, at)}</span>
                  </td>
                  <td className="w-44 py-2 pr-3" data-title="Carries">
                    <input
                      aria-label={`What ${name} carries`}
                      className={`${fieldClass} w-full`}
                      value={planned.carries}
                      placeholder="for example: music"
                      maxLength={200}
                      onChange={(event) => change(at, { carries: event.target.value })}
                    />
                    <ProposalWords inspected={inspected} at={at} hasSetup={plan.setupId !== null} />
                  </td>
                  <td className="w-40 py-2 pr-3" data-title="Goes to">
                    <UseToggles
                      value={planned.goesTo}
                      label={`${name} goes to`}
                      tone="goes"
                      onChange={(goesTo) => change(at, { goesTo })}
                    />
                  </td>
                  <td className="w-40 py-2" data-title="Not allowed for">
                    <UseToggles
                      value={planned.notFor}
                      label={`what ${name} carries is not allowed for`}
                      tone="not"
                      onChange={(notFor) => change(at, { notFor })}
                    />
                  </td>
                </tr>
              )
            );
          })}
        </tbody>
      </table>
    </section>
  );
}

function HearTrack({ number, durationS }: { number: number; durationS: number }) {
  const { playing, play, stop } = usePassages();
  const isPlaying = playing?.track === number && playing.reference === undefined;
  return (
    <Button
      aria-label={isPlaying ? `Stop track ${number}` : `Play track ${number}`}
      onClick={() => (isPlaying ? stop() : play({ track: number, atS: 0, endS: durationS }))}
    >
      {isPlaying ? <Pause size={14} /> : <Play size={14} />}
    </Button>
  );
}

function ProposalWords({
  inspected,
  at,
  hasSetup,
}: {
  inspected: InspectedTracks;
  at: number;
  hasSetup: boolean;
}) {
  const proposal = inspected.proposals[at];
  if (hasSetup || !proposal || proposal.role === 'unknown') return null;
  return (
    <span className="block text-xs text-soft">
      {proposal.role === 'silent' ? 'nothing' : proposal.role}, as it seems (
      {Math.round(100 * proposal.sureness)} %): {proposal.because}
    </span>
  );
}

/** What was measured of a track, in a few words. */
function soundWords(track: InspectedTrack, relations: Relation[], at: number): string {
  const words = [
    track.integratedLufs === null ? 'silent' : formatLevel(track.integratedLufs, 'LUFS'),
    track.truePeakDbtp === null ? null : `peak ${formatLevel(track.truePeakDbtp, 'dBTP')}`,
    track.noiseFloorDb === null ? null : `floor ${formatLevel(track.noiseFloorDb, 'dBFS')}`,
    track.sides,
    track.silentShare >= 0.01 && track.silentShare < 0.999
      ? `silent for ${Math.round(100 * track.silentShare)} %`
      : null,
    track.clippedPlaces > 0
      ? `clipped in ${track.clippedPlaces} ${track.clippedPlaces === 1 ? 'place' : 'places'}`
      : null,
    track.hum ? `hums at ${track.hum.hz} Hz` : null,
    track.doubling ? doublingWords(track.doubling) : null,
    ...relations.flatMap((relation) => {
      if (relation.kind === 'sum') return relation.track === at ? [sumWords(relation)] : [];
      const [one, other] = relation.tracks;
      return one === at || other === at ? [`the same as track ${(one === at ? other : one) + 1}`] : [];
    }),
  ];
  return words.filter((word) => word !== null).join(', ');
}
