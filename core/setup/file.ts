import type { z } from 'zod';
import { migrateSetup } from './migrations.ts';
import type { Problem } from './problem.ts';
import { brokenRules } from './rules.ts';
import { SETUP_VERSION, type Setup, SetupSchema } from './schema.ts';

/** Who reads a list of problems mends the first ones and tries again; a broken file may have a hundred thousand. */
export const MOST_PROBLEMS = 50;

/** Thrown when a setup file is refused; `problems` names each field and the rule that it breaks. */
export class SetupFileError extends Error {
  /** The first {@link MOST_PROBLEMS} of them. */
  readonly problems: Problem[];
  /** How many there are in all. */
  readonly count: number;

  constructor(problems: Problem[]) {
    super(describeProblems(problems));
    this.name = 'SetupFileError';
    this.problems = problems.slice(0, MOST_PROBLEMS);
    this.count = problems.length;
  }
}

/**
 * Reads the text of a setup file.
 * @throws {SetupFileError} naming the field and the rule, for text that is not JSON, another format, a newer
 * version, unknown fields, values out of range and references to things that are not there.
 */
export function readSetupFile(text: string): Setup {
  let json: unknown;
  try {
    json = JSON.parse(text.replace(/^\uFEFF/, ''));
  } catch (error) {
    const reason = error instanceof Error ? error.message : String(error);
    throw new SetupFileError([
      { field: 'file', rule: `this is not JSON text (${reason}); choose a file that Northfen exported` },
    ]);
  }
  return parseSetup(json);
}

/**
 * Checks a value that is meant to be a setup and returns it typed, brought to the newest version.
 * @throws {SetupFileError} as {@link readSetupFile}.
 */
export function parseSetup(json: unknown): Setup {
  const header = json as { format?: unknown; version?: unknown } | null;
  if (typeof header !== 'object' || header === null || header.format !== 'northfen.setup') {
    throw new SetupFileError([
      { field: 'format', rule: 'must be "northfen.setup"; this is not a Northfen setup' },
    ]);
  }
  if (typeof header.version === 'number' && header.version > SETUP_VERSION) {
    throw new SetupFileError([
      {
        field: 'version',
        rule: `is ${header.version}, but this Northfen reads up to version ${SETUP_VERSION}; open the file with a newer Northfen`,
      },
    ]);
  }
  const result = SetupSchema.safeParse(migrateSetup(json as Record<string, unknown>));
  if (!result.success) throw new SetupFileError(result.error.issues.map(problemOf));
  const problems = brokenRules(result.data);
  if (problems.length > 0) throw new SetupFileError(problems);
  return result.data;
}

/** Returns the text of a setup file: JSON, two spaces deep, with a newline at its end. */
export function writeSetupFile(setup: Setup): string {
  return `${JSON.stringify(setup, null, 2)}\n`;
}

/** Says in one line what is wrong: the first three problems in words, and how many more there are. */
export function describeProblems(problems: Problem[]): string {
  const shown = problems.slice(0, 3).map(({ field, rule }) => `${field}: ${rule}`);
  const more = problems.length - shown.length;
  return shown.join('; ') + (more > 0 ? `; and ${more} more` : '');
}

/** Turns an issue that Zod reports into a field, as a path into the file, and a rule. */
export function problemOf(issue: z.core.$ZodIssue): Problem {
  const field = issue.path.reduce<string>(
    (path, key) =>
      typeof key === 'number' ? `${path}[${key}]` : path ? `${path}.${String(key)}` : String(key),
    '',
  );
  if (issue.code === 'unrecognized_keys') {
    const keys = issue.keys.map((key) => `"${key}"`).join(', ');
    return { field: field || 'file', rule: `does not know the field ${keys}; remove it` };
  }
  return { field: field || 'file', rule: issue.message };
}
