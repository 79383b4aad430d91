import type { Finding } from '../core/routing/finding.ts';
import { findingsOf } from '../core/routing/findings.ts';
import { remediesFor } from '../core/routing/remedies.ts';
import { printJson, printLines } from './print.ts';
import { loadSetup, today } from './setupFile.ts';

/** Prints the findings of a setup file. @returns whether a stop-finding stands */
export async function check(path: string, options: { json?: boolean }): Promise<boolean> {
  const setup = await loadSetup(path);
  const findings = findingsOf(setup, today());
  if (options.json) printJson({ findings: findings.map(published) });
  else if (findings.length === 0)
    printLines(['No findings: everything arrives where it is wanted, and nowhere else.']);
  else {
    printLines(
      findings.flatMap((finding) => [
        `${finding.severity.padEnd(4)}  ${finding.code.padEnd(12)}  ${finding.message}`,
        ...remediesFor(setup, finding, today()).map(
          (remedy) => `                    remedy: ${remedy.label}`,
        ),
      ]),
    );
  }
  return findings.some((finding) => finding.severity === 'stop');
}

function published({ code, severity, message, source, destination, paths }: Finding) {
  return { code, severity, message, source, destination, paths };
}
