import { describe, expect, test } from '@jest/globals';
import fc from 'fast-check';
import { regattaGuessed } from '../demo/setups.ts';
import { applyEdit, EditError } from '../setup/edits.ts';
import { randomSetup } from '../testing/randomSetups.ts';
import { cellEdit } from './cell.ts';
import { intentOf } from './intent.ts';
import { reachOf } from './reach.ts';

describe('reach', () => {
  test('a path is written leg by leg, and its running totals end in its gain', () => {
    const setup = regattaGuessed();
    setup.sources[1].levelDb = -3;
    setup.pickups[1].gainDb = 2;
    const [card] = reachOf(setup).at('game', 'live')?.paths ?? [];
    expect(card.legs.map(({ place, gainDb, totalDb }) => [place, gainDb, totalDb])).toEqual([
      ['Lock & Paddle', -3, -3],
      ['Pickup of Lock & Paddle', 2, -1],
      ['Track 1 · Live mix', -10, -11],
      ['Live', 0, -11],
    ]);
    expect(card.gainDb).toBe(-11);
  });

  test('live and VOD are fed by the track with the use; a track that is both feeds both', () => {
    const setup = regattaGuessed();
    setup.tracks[0].uses = ['live', 'vod'];
    setup.tracks[1].uses = ['file'];
    const reach = reachOf(setup);
    expect(reach.destinations.map(({ id }) => id).slice(0, 5)).toEqual([
      'headphones',
      'friends',
      'live',
      'vod',
      'vod-mix',
    ]);
    expect(reach.at('reedbox', 'vod')?.gainDb).toBe(-16);
  });

  test('in a random setup, something arrives just where a send leads there', () => {
    fc.assert(
      fc.property(randomSetup, (setup) => {
        const reach = reachOf(setup);
        for (const source of setup.sources) {
          for (const destination of reach.destinations) {
            const sends = setup.sends.filter(
              ({ pickup, to }) => pickup === `${source.id}.pickup` && to === destination.sendTo,
            );
            const arrival = reach.at(source.id, destination.id);
            expect(arrival?.gainDb ?? null).toBe(
              sends.length === 1 ? source.levelDb + sends[0].gainDb : null,
            );
          }
        }
      }),
      { numRuns: 60 },
    );
  });
});

describe('the edit of a cell', () => {
  test('moves intent and send together, whatever the level of the source', () => {
    const setup = regattaGuessed();
    setup.sources[0].levelDb = -5;
    const after = applyEdit(setup, cellEdit(setup, 'narrator', 'live', -12));
    expect(reachOf(after).at('narrator', 'live')?.gainDb).toBeCloseTo(-12);
    expect(intentOf(after).at('narrator', 'live')).toBe(-12);
    const closed = applyEdit(after, cellEdit(after, 'narrator', 'live', null));
    expect(reachOf(closed).at('narrator', 'live')).toBeNull();
    expect(intentOf(closed).at('narrator', 'live')).toBeNull();
  });

  test('moves every destination that shares the send', () => {
    const setup = regattaGuessed();
    setup.tracks[0].uses = ['live', 'vod'];
    setup.tracks[1].uses = ['file'];
    const after = applyEdit(setup, cellEdit(setup, 'bosun', 'live', -7));
    expect(intentOf(after).at('bosun', 'vod')).toBe(-7);
  });

  test('refuses a level that no send can reach, in words', () => {
    const setup = regattaGuessed();
    setup.sources[0].levelDb = -40;
    expect(() => cellEdit(setup, 'narrator', 'live', 0)).toThrow(EditError);
    expect(() => cellEdit(setup, 'narrator', 'live', 0)).toThrow(/Change the level of the source first/);
  });
});
