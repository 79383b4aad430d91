import type { Bearer } from './bearers.ts';
import { nameOf } from './edits.ts';
import type { Setup } from './schema.ts';

/** Names what bears a processing, within a sentence. */
export function bearerWords(setup: Setup, bearer: Bearer): string {
  switch (bearer.kind) {
    case 'source':
      return nameOf(setup, bearer.id);
    case 'mix':
      return `the mix “${nameOf(setup, bearer.id)}”`;
    case 'pickup':
      return `everything that ${nameOf(setup, bearer.id)} takes`;
    case 'track':
      return `the whole of “${nameOf(setup, bearer.id)}”`;
    case 'destination':
      return `the whole that ${nameOf(setup, bearer.id)} gets`;
    case 'send':
      return `${nameOf(setup, bearer.from)} on its way to “${nameOf(setup, bearer.to)}”`;
    case 'input':
      return `${nameOf(setup, bearer.from)} on its way into “${nameOf(setup, bearer.to)}”`;
  }
}
