import type { Finding } from '../../findings/finding.ts';
import { nameOf } from '../../setup/edits.ts';
import { DEFAULT_DEVICE } from '../../setup/schema.ts';
import type { Candidate } from '../candidate.ts';
import type { Room } from '../room.ts';

/** What is put right at a line between two machines: an isolator, or a clock that follows. */
export function lineMoves({ setup }: Room, { code, detail }: Pick<Finding, 'code' | 'detail'>): Candidate[] {
  const link = setup.links.find(({ id }) => id === detail);
  if (!link) return [];
  const [verb, values] =
    code === 'hum-risk'
      ? (['Put an isolator into', { isolated: true }] as const)
      : (['Let the far end follow the clock of', { converted: true }] as const);
  const fault =
    code === 'hum-risk'
      ? `“${link.name}” hums`
      : `The two ends of “${link.name}” run on clocks or rates of their own`;
  return [{ label: `${verb} “${link.name}”`, fault, edits: [{ edit: 'updateLink', id: link.id, values }] }];
}

/** An app that plays into whatever is the default names the device itself. */
export function pins(room: Room, sourceId: string): Candidate[] {
  const source = room.source(sourceId);
  const device = source?.into === DEFAULT_DEVICE ? room.deviceOf(source) : undefined;
  if (!source || device === undefined) return [];
  return [
    {
      label: `Choose “${nameOf(room.setup, device)}” in ${source.name} itself`,
      fault: `${source.name} leaves its output to the computer`,
      edits: [{ edit: 'updateSource', id: source.id, values: { into: device } }],
    },
  ];
}
