import type { Arrival } from '../../reach/reach.ts';
import type { Source } from '../../setup/schema.ts';
import { isEcho } from '../echo.ts';
import { type Finding, finding } from '../finding.ts';
import { OWN_VOICE_LATE_MS } from '../limits.ts';
import { cellsOf, inScenesText, type Survey, scenesOfAll } from '../survey.ts';
import { byAir } from './byAir.ts';
import { times } from './copies.ts';

/** A voice comes back: the friends' to the friends, the creator's own to their headphones, or from the loudspeakers into the microphone. */
export function* echoes(survey: Survey): Generator<Finding> {
  for (const { source, destination } of cellsOf(survey)) {
    if (source.kind !== 'voice chat' && source.kind !== 'microphone') continue;
    const groups = survey.inScenes(source, destination).filter(({ arrival }) => arrival !== null);
    const arrival = groups[0]?.arrival;
    if (!arrival) continue;
    const scenes = scenesOfAll(survey, groups);
    const about = { source: source.id, destination: destination.id, arrivals: [arrival], scenes };
    const when = inScenesText(survey, scenes);
    if (source.kind === 'voice chat') {
      if (destination.kind === 'friends' && isEcho(survey.setup, source.id, destination.id))
        yield finding(
          'echo.party',
          'stop',
          () =>
            `${when}${source.name} comes back to ${destination.name}: what their chat gets has ${source.name}’s own voice in it.${byAir(survey, source, destination)}`,
          about,
        );
      continue;
    }
    if (destination.kind === 'loudspeakers')
      yield finding(
        'feedback',
        'stop',
        () =>
          `${when}${source.name} comes out of ${destination.name}, in the room of the microphone: it will howl.`,
        { ...about, detail: 'room' },
      );
    if (destination.kind === 'headphones') yield* ownVoice(when, source, arrival, about);
  }
}

function* ownVoice(
  when: string,
  source: Source,
  arrival: Arrival,
  about: Parameters<typeof finding>[3],
): Generator<Finding> {
  const late = arrival.latestMs;
  if (late <= OWN_VOICE_LATE_MS && arrival.copies < 2) return;
  const how = arrival.copies > 1 ? times(arrival.copies) : `${late.toFixed(0)} ms late, as an echo`;
  yield finding('echo.self', 'warn', () => `${when}You hear your own voice (${source.name}) ${how}.`, about);
}
