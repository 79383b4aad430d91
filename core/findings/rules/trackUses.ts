import { trackLimitOf } from '../../reach/destinations.ts';
import { type Finding, finding } from '../finding.ts';
import type { Survey } from '../survey.ts';

/** What the track sheet asks of the recorder that it cannot do: too many tracks, or uses that do not fit. */
export function* trackUses({ setup }: Survey): Generator<Finding> {
  const limit = trackLimitOf(setup);
  if (setup.tracks.length > limit) {
    const beyond = setup.tracks.slice(limit).map((track) => `“${track.name}”`);
    yield finding(
      'track-limit',
      'stop',
      `The sheet has ${setup.tracks.length} tracks, but the recorder has ${limit}: ${beyond.join(', ')} would not be recorded.`,
    );
  }
  yield* onAir({ setup });
  const vodTrack = setup.tracks.find(({ uses }) => uses.includes('vod'));
  if (setup.recorder.recordVod && vodTrack && !vodTrack.uses.includes('file'))
    yield finding(
      'uses',
      'warn',
      `You want the VOD in the local file as well, but “${vodTrack.name}” is not recorded.`,
      {
        detail: 'record-vod',
      },
    );
  for (const track of setup.tracks.filter(({ uses }) => uses.length === 0))
    yield finding(
      'uses',
      'note',
      `Track “${track.name}” is used for nothing: it is neither live, nor the VOD, nor in the file.`,
      { destination: track.id, detail: 'idle' },
    );
}

function* onAir({ setup }: Pick<Survey, 'setup'>): Generator<Finding> {
  for (const use of ['live', 'vod'] as const) {
    const word = use === 'vod' ? 'VOD' : 'live';
    const tracks = setup.tracks.filter(({ uses }) => uses.includes(use));
    const destination = setup.destinations.find(({ kind }) => kind === use);
    const isWanted = destination && setup.intent.some((wish) => wish.destination === destination.id);
    if (tracks.length > 1)
      yield finding(
        'uses',
        'stop',
        `${tracks.map(({ name }) => `“${name}”`).join(' and ')} both have the use ${word}. Only one track can be the ${word} one.`,
        { detail: use },
      );
    else if (tracks.length === 0 && isWanted)
      yield finding(
        'uses',
        'stop',
        `You want sounds at ${destination.name}, but no track has the use ${word}.`,
        {
          destination: destination.id,
          detail: use,
        },
      );
  }
}
