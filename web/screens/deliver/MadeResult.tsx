import { Download } from 'lucide-react';
import type { ReactNode } from 'react';
import { leftOutLine } from '../../../core/deliver/leftOut.ts';
import type { Delivery, DeliveryResult, MadeUpload } from '../../../core/deliver/records.ts';
import { listed } from '../../../core/words/figures.ts';
import { fileUrl } from '../../api/deliveries.ts';
import { formatBytes, formatClock, formatLevel } from '../../format.ts';
import { Button } from '../../parts/controls.tsx';
import { TableHead } from '../../parts/TableHead.tsx';
import { VerdictWord } from '../check/VerdictWord.tsx';
import { HearFiles } from './HearFiles.tsx';
import { RescueChart } from './RescueChart.tsx';

type Result<Kind extends DeliveryResult['kind']> = Extract<DeliveryResult, { kind: Kind }>;

/** The videos with their verdicts and figures, and the tracks with whether they are on. */
export function MadeFiles({
  delivery,
  result: { uploads, handoff },
}: {
  delivery: Delivery;
  result: Result<'files'>;
}) {
  return (
    <div className="space-y-2 pt-2 text-sm">
      {uploads.length > 0 && (
        <table className="stacking w-full border-collapse text-left" aria-label="Videos">
          <TableHead titles={['Video', 'Checked', 'Loudness', 'True peak', 'Length', '']} />
          <tbody>
            {uploads.map((upload) => (
              <VideoRow
                key={`${upload.piece} ${upload.fromS} ${upload.file}`}
                upload={upload}
                id={delivery.id}
                targetLufs={delivery.order.kind === 'files' ? delivery.order.upload?.targetLufs : undefined}
              />
            ))}
          </tbody>
        </table>
      )}
      {uploads.some(({ file }) => file === null) && (
        <p className="text-soft">
          Choose other tracks, or take the sound out below. If you want it anyway, open “The video is kept
          only if its check says clean” above, and say so.
        </p>
      )}
      {handoff && (
        <p>
          <strong>For the editor:</strong> {handoff.tracks.length} tracks,{' '}
          {handoff.tracks.some(({ isOn }) => !isOn)
            ? `off on the timeline: ${listed(handoff.tracks.filter(({ isOn }) => !isOn).map(({ name }) => name))}`
            : 'all on the timeline'}
          . {handoff.verdict === null && 'Nothing was looked for.'}
        </p>
      )}
      <Files delivery={delivery} />
    </div>
  );
}

/** A video is as loud as was asked for when it is this near (LU). */
const NEAR_LU = 0.2;

function VideoRow({
  upload,
  id,
  targetLufs,
}: {
  upload: MadeUpload;
  id: string;
  targetLufs: number | undefined;
}) {
  const { piece, file, proof, verdict, leaks, untested, lufs, truePeakDbtp, isLimited, lengthS, hasPicture } =
    upload;
  return (
    <tr className="border-b border-rule align-top">
      <th scope="row" className="py-1.5 pr-3 text-left font-semibold">
        {file ?? piece}
        {!hasPicture && <span className="block text-xs font-normal text-soft">without a picture</span>}
      </th>
      <td className="py-1.5 pr-3" data-title="Checked">
        {verdict === null ? (
          <span className="text-soft">nothing was looked for</span>
        ) : (
          <VerdictWord verdict={verdict} />
        )}
        {leaks.length > 0 && (
          <span className="block text-xs text-soft">
            {listed([...new Set(leaks.map(({ reference }) => reference))], 3)} at{' '}
            {listed(
              leaks.map(({ startS }) => formatClock(startS)),
              4,
            )}
          </span>
        )}
        {leaks.length === 0 && untested.length > 0 && (
          <span className="block text-xs text-soft">
            {untested[0].reference}: {untested[0].reason}
          </span>
        )}
      </td>
      <td className="py-1.5 pr-3 whitespace-nowrap" data-title="Loudness">
        {formatLevel(lufs, 'LUFS')}
        {targetLufs !== undefined && lufs !== null && Math.abs(lufs - targetLufs) > NEAR_LU && (
          <span className="block text-xs whitespace-normal text-soft">
            {formatLevel(targetLufs, 'LUFS')} would crush its peaks
          </span>
        )}
      </td>
      <td className="py-1.5 pr-3" data-title="True peak">
        {formatLevel(truePeakDbtp, 'dBTP')}
        {isLimited && <span className="block text-xs text-soft">peaks held down</span>}
      </td>
      <td className="py-1.5 pr-3" data-title="Length">
        {formatClock(lengthS)}
      </td>
      <td className="py-1.5 text-right whitespace-nowrap">
        {file ? (
          <span className="inline-flex gap-3">
            {proof && <FileLink href={fileUrl(id, proof, 'show')}>Proof</FileLink>}
            <FileLink href={fileUrl(id, file, 'show')}>Watch</FileLink>
            <FileLink href={fileUrl(id, file, 'save')} isSaved>
              Save
            </FileLink>
          </span>
        ) : (
          <span className="text-clay">not written</span>
        )}
      </td>
    </tr>
  );
}

/** A rescued track: how far down the sound went over time, both to be heard, and what is left. */
export function MadeRescue({
  delivery: { id },
  result: { file, takenFile, sound, rescue },
  onUse,
}: {
  delivery: Delivery;
  result: Result<'rescue'>;
  onUse: () => void;
}) {
  return (
    <div className="grid gap-x-8 gap-y-2 pt-2 text-sm md:grid-cols-2">
      <div className="space-y-2">
        <p>
          {rescue.downDb !== null && (
            <>
              {sound} went down by about <strong>{Math.round(rescue.downDb)} dB</strong>, by a careful
              estimate. {rescue.isLossy && 'It counts what the coding of the track left of it. '}
            </>
          )}
          Checked again: <VerdictWord verdict={rescue.verdict} />
          {rescue.leaks.length > 0 &&
            `, still heard at ${listed(
              rescue.leaks.map(({ startS }) => formatClock(startS)),
              4,
            )}`}
          .
        </p>
        <HearFiles
          sounds={[
            { name: 'The track without it', url: fileUrl(id, file, 'show') },
            { name: 'What was taken out', url: fileUrl(id, takenFile, 'show') },
          ]}
          fromS={Math.max(0, rescue.intervals[0]?.startS ?? 0)}
        />
        <p className="flex flex-wrap gap-4">
          <FileLink href={fileUrl(id, file, 'save')} isSaved>
            Save the track
          </FileLink>
          <FileLink href={fileUrl(id, takenFile, 'save')} isSaved>
            Save what was taken out
          </FileLink>
        </p>
        <Button onClick={onUse}>Use it in the video</Button>
      </div>
      <RescueChart parts={rescue.parts} />
    </div>
  );
}

/** What was joined: where each recording lies, and how its clock ran. */
export function MadeJoin({ delivery, result: { join } }: { delivery: Delivery; result: Result<'join'> }) {
  return (
    <div className="space-y-1.5 pt-2 text-sm">
      <ul aria-label="Joined">
        {join.joined.map(({ file, offsetMs, driftPpm, heardS, offMs, isSteady }) => (
          <li key={file}>
            <strong>{file}</strong> began {formatClock(Math.abs(offsetMs) / 1000)}{' '}
            {offsetMs < 0 ? 'before' : 'after'} this recording. {clockWords(driftPpm)} Heard together for{' '}
            {formatClock(heardS)}.
            {!isSteady && (
              <span className="text-reed">
                {' '}
                Its clock did not run evenly, so it may be {Math.ceil(offMs)} ms off in places.
              </span>
            )}
          </li>
        ))}
      </ul>
      {join.left?.map((track) => (
        <p key={track}>{leftOutLine(track)}</p>
      ))}
      <Files delivery={delivery} />
    </div>
  );
}

/** A copy of the recording, and what there is to say of its tracks. */
export function MadeCopy({ delivery, lines }: { delivery: Delivery; lines: string[] }) {
  return (
    <div className="space-y-1.5 pt-2 text-sm">
      {lines.map((line) => (
        <p key={line}>{line}</p>
      ))}
      <Files delivery={delivery} />
    </div>
  );
}

/** What a drift would have come to, had it not been taken out. */
function clockWords(driftPpm: number): string {
  const anHourMs = Math.abs(driftPpm) * 3.6;
  return anHourMs < 1
    ? 'Both clocks ran alike.'
    : `The clocks ran apart by ${anHourMs.toFixed(0)} ms an hour, which is corrected.`;
}

function Files({ delivery: { id, files } }: { delivery: Delivery }) {
  if (files.length === 0) return null;
  return (
    <details>
      <summary className="cursor-pointer text-water">All files</summary>
      <ul aria-label="Files" className="grid gap-x-6 pt-1 sm:grid-cols-2">
        {files.map(({ name, bytes }) => (
          <li key={name} className="flex justify-between gap-3 border-b border-rule py-0.5">
            <FileLink
              href={fileUrl(id, name, name.endsWith('.html') ? 'show' : 'save')}
              isSaved={!name.endsWith('.html')}
            >
              {name}
            </FileLink>
            <span className="whitespace-nowrap text-soft">{formatBytes(bytes)}</span>
          </li>
        ))}
      </ul>
    </details>
  );
}

function FileLink({
  href,
  isSaved = false,
  children,
}: {
  href: string;
  isSaved?: boolean;
  children: ReactNode;
}) {
  return (
    <a
      href={href}
      download={isSaved ? '' : undefined}
      target={isSaved ? undefined : '_blank'}
      rel="noreferrer"
      className="inline-flex min-h-6 items-center gap-1 align-bottom break-all text-water underline"
    >
      {isSaved && <Download size={13} aria-hidden />}
      {children}
    </a>
  );
}
