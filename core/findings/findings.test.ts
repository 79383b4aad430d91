import { describe, expect, test } from '@jest/globals';
import { regattaGuessed, regattaMadeRight, regattaWithFaults, voiceOver } from '../demo/setups.ts';
import { pickupIdFor } from '../setup/ids.ts';
import type { Setup } from '../setup/schema.ts';
import { findingsOf } from './findings.ts';

const TODAY = '2026-05-01';
const summary = (setup: Setup) =>
  findingsOf(setup, TODAY).map(({ code, source, destination }) =>
    [code, source, destination].join(' ').trim(),
  );

/** The regatta made right, changed by hand. */
function changed(change: (setup: Setup) => void): Setup {
  const setup = structuredClone(regattaGuessed());
  change(setup);
  return setup;
}

function send(setup: Setup, source: string, to: string, gainDb = 0): void {
  setup.sends.push({ pickup: pickupIdFor(source), to, gainDb });
}

function unsend(setup: Setup, source: string, to: string): void {
  setup.sends = setup.sends.filter((one) => !(one.pickup === pickupIdFor(source) && one.to === to));
}

describe('the demo', () => {
  test('made right, and the plain voice-over, have no finding', () => {
    expect(summary(regattaMadeRight())).toEqual([]);
    expect(summary(voiceOver())).toEqual([]);
  });

  test('with faults shows each planted fault and no other', () => {
    expect(summary(regattaWithFaults()).sort()).toEqual([
      'leak.live pings live',
      'leak.upload bosun upload-mix',
      'leak.vod reedbox vod',
      'missing bellbuoy vod',
      'no-own-track wick',
      'unwanted game friends',
    ]);
  });
});

describe('each code, planted', () => {
  test('leak.vod names the record, the level and the path', () => {
    const [found] = findingsOf(
      changed((setup) => send(setup, 'reedbox', 'vod-mix', -16)),
      TODAY,
    );
    expect(found).toMatchObject({
      code: 'leak.vod',
      severity: 'stop',
      source: 'reedbox',
      destination: 'vod',
    });
    expect(found.message).toBe('Reedbox stays in the VOD at −16.0 dB, and is not cleared for the VOD.');
    expect(found.paths).toHaveLength(1);
    expect(found.paths[0].legs.at(-1)).toMatchObject({ place: 'VOD', totalDb: -16, totalDelayMs: 0 });
  });

  test('a leak is a leak however quiet it is, and even when it is wanted', () => {
    const quiet = changed((setup) => {
      send(setup, 'reedbox', 'vod-mix', -90);
      setup.intent.push({ source: 'reedbox', destination: 'vod', gainDb: -90 });
    });
    expect(summary(quiet)).toContain('leak.vod reedbox vod');
  });

  test('an expired clearance counts as no', () => {
    const setup = changed((one) => {
      one.sources[1].clearance.expiresOn = '2026-04-30';
    });
    expect(summary(setup)).toEqual(
      expect.arrayContaining(['leak.live game live', 'leak.vod game vod', 'leak.upload game upload-mix']),
    );
    setup.sources[1].clearance.expiresOn = TODAY;
    expect(summary(setup)).toEqual([]);
  });

  test('missing: a closed send, or one below −60 dB; a stop on air, a warning elsewhere', () => {
    const closed = changed((setup) => unsend(setup, 'narrator', 'live-mix'));
    expect(findingsOf(closed, TODAY)[0]).toMatchObject({
      code: 'missing',
      severity: 'stop',
      destination: 'live',
    });
    const faint = changed((setup) => {
      unsend(setup, 'game', 'headphones');
      send(setup, 'game', 'headphones', -61);
    });
    expect(findingsOf(faint, TODAY)[0]).toMatchObject({
      code: 'missing',
      severity: 'warn',
      destination: 'headphones',
    });
  });

  test('unwanted: it arrives and nobody wants it', () => {
    expect(summary(changed((setup) => send(setup, 'game', 'friends', -12)))).toEqual([
      'unwanted game friends',
    ]);
  });

  test('no-own-track: shared, absent, or on a track that is not recorded; not when it is not needed', () => {
    expect(summary(changed((setup) => unsend(setup, 'wick', 'wick-alone')))).toContain('no-own-track wick');
    expect(summary(changed((setup) => send(setup, 'game', 'wick-alone')))).toContain('no-own-track wick');
    const unrecorded = changed((setup) => {
      setup.tracks[6].uses = [];
    });
    expect(summary(unrecorded)).toContain('no-own-track wick');
    expect(
      summary(
        changed(
          (setup) =>
            Object.assign(setup.sources[3], { ownTrack: false }) && unsend(setup, 'wick', 'wick-alone'),
        ),
      ),
    ).not.toContain('no-own-track wick');
  });

  test('track-limit: six tracks unless the setup raises it', () => {
    const found = findingsOf(
      changed((setup) => {
        setup.recorder = {};
      }),
      TODAY,
    );
    expect(found.map(({ code }) => code)).toEqual(['track-limit']);
    expect(found[0].message).toContain('8 tracks, but the recorder has 6: “Wick”, “Records”');
  });

  test('uses: two live tracks; none though live is wanted; a VOD that is to be recorded and is not; an idle track', () => {
    const codes = (change: (setup: Setup) => void) =>
      findingsOf(changed(change), TODAY).map(({ code, severity }) => `${code} ${severity}`);
    expect(codes((setup) => setup.tracks[2].uses.push('live'))).toContain('uses stop');
    expect(codes((setup) => Object.assign(setup.tracks[0], { uses: ['file'] }))).toContain('uses stop');
    expect(codes((setup) => Object.assign(setup, { recorder: { trackLimit: 8, recordVod: true } }))).toEqual(
      [],
    );
    expect(
      codes((setup) => {
        setup.recorder.recordVod = true;
        setup.tracks[1].uses = ['vod'];
      }),
    ).toEqual(['uses warn']);
    expect(
      codes(
        (setup) =>
          setup.tracks.pop() && setup.tracks.push({ ...setup.tracks[0], id: 'idle', name: 'Idle', uses: [] }),
      ),
    ).toContain('uses note');
  });
});
