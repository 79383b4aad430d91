import { limitWords } from '../check/verification.ts';
import { escaped } from '../words/escaped.ts';
import { clockText } from '../words/figures.ts';
import type { MadeFindings } from './records.ts';

/** What a proof stands on. */
export interface DeliveryProof extends MadeFindings {
  recording: string;
  /** The file that was made and checked; null where it is the recording itself that was checked. */
  file: string | null;
  /** `YYYY-MM-DD` */
  made: string;
  /** What else there is to say of it: each with its name. */
  facts: [name: string, words: string][];
  /** What was looked for, and how faint it may be and is still found. */
  lookedFor: string[];
  limits: string;
}

/** Returns the proof that follows from what was looked for and found in a recording. */
export function proofOfDelivery({
  file = null,
  recording,
  made,
  found,
  references,
  facts = [],
}: {
  file?: string | null;
  recording: string;
  made: string;
  found: MadeFindings;
  references: { name: string; track: number | null }[];
  facts?: DeliveryProof['facts'];
}): DeliveryProof {
  return {
    recording,
    file,
    made,
    facts,
    ...found,
    lookedFor: [...new Set(references.map(({ name }) => name))],
    limits: limitWords({
      tracks: references.some(({ track }) => track !== null),
      files: references.some(({ track }) => track === null),
    }),
  };
}

/** Returns a proof as a page that needs nothing beside it. */
export function proofPage({
  recording,
  file,
  made,
  facts,
  verdict,
  leaks,
  untested,
  lookedFor,
  limits,
}: DeliveryProof): string {
  const rows = leaks.map(
    ({ reference, track, startS, endS, levelDb }) =>
      `<tr><td>${escaped(reference)}</td><td>${track}</td><td>${clockText(startS)}–${clockText(endS)}</td><td>${levelDb.toFixed(1)} dB</td></tr>`,
  );
  const unknown = untested.map(
    ({ reference, track, reason }) => `<li>${escaped(reference)} in track ${track}: ${escaped(reason)}.</li>`,
  );
  return `<!doctype html>
<html lang="en">
<meta charset="utf-8">
<title>${escaped(recording)}: what was checked</title>
<style>
body { font: 16px/1.5 Georgia, serif; max-width: 44em; margin: 2em auto; padding: 0 1em; color: #1f2a2c; background: #fcfaf4; }
table { border-collapse: collapse; } td, th { text-align: left; font-weight: normal; vertical-align: top; padding: 0.2em 1em 0.2em 0; border-bottom: 1px solid #ccc4b0; }
</style>
<h1>${escaped(file ?? recording)}</h1>
${file === null ? '' : `<p>Made from ${escaped(recording)}. The finished file was checked, and so was each track that it is made of.</p>`}
<p>Checked with Northfen on ${escaped(made)}: <strong>${verdict ?? 'nothing was looked for'}</strong>.</p>
${lookedFor.length > 0 ? `<p>Looked for: ${lookedFor.map(escaped).join(', ')}. ${escaped(limits)}</p>` : ''}
${facts.length > 0 ? `<table>${facts.map(([name, words]) => `<tr><th>${escaped(name)}</th><td>${escaped(words)}</td></tr>`).join('')}</table>` : ''}
${rows.length > 0 ? `<h2>Found</h2><table><tr><th>What</th><th>Track</th><th>Where</th><th>How loud</th></tr>${rows.join('')}</table>` : ''}
${unknown.length > 0 ? `<h2>Could not be checked</h2><ul>${unknown.join('')}</ul>` : ''}
</html>
`;
}
