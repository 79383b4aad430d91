import { readFileSync, writeFileSync } from 'node:fs';
import { join } from 'node:path';
import { afterAll, describe, expect, test } from '@jest/globals';
import { regattaGuessed, regattaWithFaults, voiceOver } from '../core/demo/setups.ts';
import { twoMachinesMadeRight, twoMachinesWithFaults } from '../core/demo/twoMachines.ts';
import { readSetupFile, writeSetupFile } from '../core/setup/file.ts';
import { joined, silence, sine } from '../core/testing/tones.ts';
import { testFolder, writeSound } from '../server/testing.ts';
import { main } from './main.ts';
import { catchPrinted, printed } from './testing.ts';

const folder = testFolder();
const file = (name: string) => join(folder.path, name);
afterAll(folder.remove);

catchPrinted();

describe('northfen loudness', () => {
  test('prints every track as one JSON object', async () => {
    await writeSound(file('tone.mkv'), sine(997, -23, 6), { name: 'Tone "one"', codec: 'pcm-s24' });
    expect(await main(['loudness', file('tone.mkv'), '--json'])).toBe(0);
    const { tracks } = JSON.parse(printed.out);
    expect(Object.keys(tracks[0])).toEqual([
      'index',
      'name',
      'channels',
      'sampleRate',
      'durationS',
      'integratedLufs',
      'loudnessRangeLu',
      'maxMomentaryLufs',
      'maxShortTermLufs',
      'truePeakDbtp',
    ]);
    expect(tracks[0]).toMatchObject({
      index: 0,
      name: 'Tone "one"',
      channels: 2,
      sampleRate: 48000,
      durationS: 6,
    });
    expect(Math.abs(tracks[0].integratedLufs + 23)).toBeLessThan(0.1);
    expect(Math.abs(tracks[0].truePeakDbtp + 23)).toBeLessThan(0.1);
  });

  test('gives null for silence', async () => {
    await writeSound(file('silence.wav'), silence(4), {}, 'wav');
    expect(await main(['loudness', file('silence.wav'), '--json'])).toBe(0);
    expect(JSON.parse(printed.out).tracks[0]).toMatchObject({
      integratedLufs: null,
      loudnessRangeLu: null,
      maxMomentaryLufs: null,
      maxShortTermLufs: null,
      truePeakDbtp: null,
    });
  });

  test('ends with 1 and a sentence on standard error for a file that is no use', async () => {
    writeFileSync(file('text.wav'), 'not sound');
    expect(await main(['loudness', file('text.wav'), '--json'])).toBe(1);
    expect(printed.out).toBe('');
    expect(printed.errors).toMatch(/^northfen: text.wav is not an audio file that Northfen can read/);
    expect(await main(['loudness', file('missing.wav')])).toBe(1);
    expect(printed.errors).toContain('There is no file missing.wav');
  });
});

describe('northfen presence', () => {
  test('prints the answer as one JSON object', async () => {
    const noise = Float32Array.from({ length: 48_000 * 8 }, (_, i) => Math.sin(i * i * 0.0007) * 0.3);
    await writeSound(file('noise.wav'), noise, {}, 'wav');
    await writeSound(
      file('later.wav'),
      joined(
        silence(0.1),
        noise.map((value) => value / 4),
      ),
      {},
      'wav',
    );
    expect(
      await main(['presence', '--reference', file('noise.wav'), '--in', file('later.wav'), '--json']),
    ).toBe(0);
    const found = JSON.parse(printed.out);
    expect(Object.keys(found)).toEqual([
      'present',
      'levelDb',
      'offsetMs',
      'confidence',
      'testable',
      'intervals',
    ]);
    expect(found).toMatchObject({ present: true, testable: true });
    expect(Math.abs(found.levelDb + 12.04)).toBeLessThan(0.5);
    expect(Math.abs(found.offsetMs - 100)).toBeLessThan(1);
    expect(Object.keys(found.intervals[0])).toEqual(['startS', 'endS', 'levelDb', 'offsetMs']);
  });

  test('says of a file that breaks off that it cannot be told', async () => {
    const noise = Float32Array.from({ length: 48_000 * 8 }, (_, i) => Math.sin(i * i * 0.0007) * 0.3);
    await writeSound(file('noise.wav'), noise, {}, 'wav');
    await writeSound(file('tone.mkv'), sine(440, -20, 20));
    const bytes = readFileSync(file('tone.mkv'));
    writeFileSync(file('cut.mkv'), bytes.subarray(0, bytes.length / 2));
    const asked = ['presence', '--reference', file('noise.wav'), '--in'];
    expect(await main([...asked, file('tone.mkv')])).toBe(0);
    expect(printed.out).toContain('Absent');
    expect(await main([...asked, file('cut.mkv')])).toBe(0);
    expect(printed.out).toMatch(
      /Not testable: cut.mkv breaks off at 0:(09|10), but says that it is 0:20 long/,
    );
    await main([...asked, file('cut.mkv'), '--json']);
    expect(JSON.parse(printed.out.slice(printed.out.indexOf('{')))).toMatchObject({
      present: false,
      testable: false,
    });
  });

  test('says which tracks there are when another is asked for', async () => {
    await writeSound(file('one.mkv'), sine(440, -20, 1));
    expect(
      await main(['presence', '--reference', file('one.mkv'), '--in', file('one.mkv'), '--track', '4']),
    ).toBe(1);
    expect(printed.errors).toContain('There is no audio track 4; the file has 1.');
  });
});

/** What is given of each finding. */
const FINDING_KEYS = [
  ...['id', 'code', 'severity', 'message', 'source', 'destination', 'scenes', 'paths'],
  ...['cause', 'remedies', 'givingUp', 'whyNone'],
];

describe('northfen check', () => {
  test('groups findings by cause, each with its name, and gives what a remedy does and changes for whom', async () => {
    writeFileSync(file('causes.json'), writeSetupFile(twoMachinesWithFaults()));
    expect(await main(['check', file('causes.json'), '--no-sound', '--json'])).toBe(3);
    const { findings, causes } = JSON.parse(printed.out);
    expect(causes).toHaveLength(8);
    const echo = causes.find(
      ({ name }: { name: string }) => name === 'Call is open in the mix “Mix for the friends”',
    );
    expect(echo.brings).toHaveLength(5);
    const [first] = findings.filter(({ cause }: { cause: string }) => cause === echo.id);
    expect(first.remedies[0]).toMatchObject({
      label: 'Mute Call in the mix “Mix for the friends”',
      handwork: ['Mute Call in the mix “Mix for the friends”.'],
      steps: [
        { edit: 'setMixInput', mix: 'sluicebox.chat-mix', from: 'sluicebox.chat', values: { muted: true } },
      ],
      givesUp: [],
    });
    expect(first.remedies[0].effects).toContainEqual({
      ...{ source: 'bosun', destination: 'friends', scene: null },
      ...{ beforeDb: -10, afterDb: null },
    });
    printed.out = '';
    await main(['check', file('causes.json'), '--no-sound']);
    expect(printed.out).toContain('cause: Call is open in the mix “Mix for the friends”');
  });

  test('lists a finding that is meant apart, and does not count it', async () => {
    const setup = regattaWithFaults();
    writeFileSync(file('open.json'), writeSetupFile(setup));
    await main(['check', file('open.json'), '--no-sound', '--json']);
    const accepted = JSON.parse(printed.out).findings.map(
      ({ id, message }: { id: string; message: string }) => ({
        finding: id,
        facts: message,
        note: 'on purpose',
      }),
    );
    printed.out = '';
    writeFileSync(file('meant.json'), writeSetupFile({ ...setup, accepted }));
    expect(await main(['check', file('meant.json'), '--no-sound', '--json'])).toBe(0);
    const meant = JSON.parse(printed.out);
    expect([meant.findings.length, meant.accepted.length, meant.accepted[0].note]).toEqual([
      0,
      6,
      'on purpose',
    ]);
  });

  test('follows the wiring: what lies in mixes, links and scenes is found, with its way', async () => {
    writeFileSync(file('two.json'), writeSetupFile(twoMachinesWithFaults()));
    expect(await main(['check', file('two.json'), '--json'])).toBe(3);
    const { findings } = JSON.parse(printed.out);
    expect(Object.keys(findings[0])).toEqual(FINDING_KEYS);
    const codes = findings.map(({ code }: { code: string }) => code);
    for (const code of ['leak.vod', 'echo.party', 'scene-gap', 'doubled', 'hum-risk', 'on-default'])
      expect(codes).toContain(code);
    const doubled = findings.find(({ code }: { code: string }) => code === 'doubled');
    expect(doubled.paths).toHaveLength(2);
    expect(doubled.paths[0].legs.map(({ place }: { place: string }) => place)).toContain('Loft · Capture');
  });

  test('ends with 0 for two machines that are made right', async () => {
    writeFileSync(file('right.json'), writeSetupFile(twoMachinesMadeRight()));
    expect(await main(['check', file('right.json'), '--json'])).toBe(0);
    expect(JSON.parse(printed.out)).toEqual({ findings: [], causes: [], accepted: [] });
  });

  test('ends with 3 when a stop-finding stands, with 0 when not', async () => {
    writeFileSync(file('faults.json'), writeSetupFile(regattaWithFaults()));
    expect(await main(['check', file('faults.json'), '--json'])).toBe(3);
    const { findings } = JSON.parse(printed.out);
    expect(findings).toHaveLength(6);
    expect(Object.keys(findings[0])).toEqual(FINDING_KEYS);
    printed.out = '';
    writeFileSync(file('right.json'), writeSetupFile(regattaGuessed()));
    expect(await main(['check', file('right.json'), '--json'])).toBe(0);
    expect(JSON.parse(printed.out)).toEqual({ findings: [], causes: [], accepted: [] });
  });

  test('ends with 1 for a broken setup, naming the field', async () => {
    writeFileSync(
      file('broken.json'),
      writeSetupFile(regattaGuessed()).replace('"gainDb": -16', '"gainDb": 1e9'),
    );
    expect(await main(['check', file('broken.json')])).toBe(1);
    expect(printed.errors).toMatch(/sends\[\d+\]\.gainDb: must be 24 dB or less/);
  });
});

describe('wrong usage ends with 2', () => {
  test.each([
    [[]],
    [['loudness']],
    [['unknown']],
    [['check', 'a.json', '--colour']],
    [['presence', '--reference', 'a.wav']],
    [['presence', '--reference', 'a', '--in', 'b', '--track', 'x']],
    [['render', 'a.json']],
  ])('northfen %j', async (args) => {
    expect(await main(args)).toBe(2);
  });

  test('asking for help does not', async () => {
    expect(await main(['--help'])).toBe(0);
    expect(printed.out).toContain('presence');
  });
});

test('northfen render refuses another ending than .mkv, and a recording that is not there', async () => {
  writeFileSync(file('right.json'), writeSetupFile(regattaGuessed()));
  expect(await main(['render', file('right.json'), '--out', file('take.mp4')])).toBe(1);
  expect(printed.errors).toContain('--out must end in .mkv');
  expect(await main(['render', file('right.json'), '--out', file('take.mkv')])).toBe(1);
  expect(printed.errors).toContain(
    'sources[0].media.path: there is no file media/narrator.flac beside the setup file.',
  );
});

describe('northfen calibrate', () => {
  test('prints floor, speech, gate and hum of a recording as one JSON object', async () => {
    const word = sine(300, -12, 0.5);
    const speech = joined(...Array.from({ length: 10 }, () => [word, silence(0.5)]).flat());
    const sound = speech.map((value, i) => value + Math.sin((2 * Math.PI * 50 * i) / 48_000) * 0.002);
    await writeSound(file('voice.wav'), sound, { codec: 'pcm-s24' }, 'wav');
    expect(await main(['calibrate', file('voice.wav'), '--json'])).toBe(0);
    const found = JSON.parse(printed.out);
    expect(found.speechDb).toBeCloseTo(-15, 0);
    expect(found.floorDb).toBeCloseTo(-57, 0);
    expect(found.gateDb).toBeGreaterThan(found.floorDb + 6);
    expect(found.hum).toMatchObject({ hz: 50 });
    printed.out = '';
    expect(await main(['calibrate', file('voice.wav')])).toBe(0);
    expect(printed.out).toContain('It hums at 50 Hz');
    expect(await main(['calibrate', file('gone.wav')])).toBe(1);
    expect(printed.errors).toContain('There is no file gone.wav');
  });
});

describe('northfen balance', () => {
  const tone = (hz: number, db: number) => joined(sine(hz, db, 2), silence(1), sine(hz, db, 2));

  test('solves the levels, prints them with the figures, and writes the setup', async () => {
    for (const [name, sound] of [
      ['narrator', tone(400, -20)],
      ['game', sine(900, -12, 5)],
      ['bellbuoy', sine(1500, -30, 5)],
    ] as const)
      await writeSound(file(`${name}.wav`), sound, { codec: 'pcm-s24' }, 'wav');
    const plain = voiceOver();
    const setup = {
      ...plain,
      sources: plain.sources.map((source) => ({ ...source, media: { path: `${source.id}.wav` } })),
      balance: [{ destination: 'master', targetLufs: -18, bedLu: 12 }],
    };
    writeFileSync(file('plain.json'), writeSetupFile(setup));
    const args = ['balance', file('plain.json'), '--at', 'master', '--out', file('balanced.json'), '--json'];
    expect(await main(args)).toBe(0);
    const [master] = JSON.parse(printed.out).destinations;
    expect(master).toMatchObject({ id: 'master', name: 'Upload mix', obstacles: [] });
    expect(Math.abs(master.after.integratedLufs + 18)).toBeLessThan(0.2);
    expect(Math.abs(master.after.voiceOverBedLu - 12)).toBeLessThan(0.2);
    expect(master.levels.map(({ source }: { source: string }) => source)).toEqual([
      'narrator',
      'game',
      'bellbuoy',
    ]);
    const written = readSetupFile(readFileSync(file('balanced.json'), 'utf8'));
    const sent = written.sends.find(({ pickup, to }) => pickup === 'game.pickup' && to === 'master');
    expect(sent?.gainDb).toBeCloseTo(master.levels[1].afterDb, 4);
    printed.out = '';
    expect(await main(['balance', file('balanced.json'), '--at', 'master'])).toBe(0);
    expect(printed.out).toMatch(/Upload mix: -1[78]\.\d LUFS → -1[78]\.\d LUFS/);
  });

  test('says where it could balance, and what is missing', async () => {
    expect(await main(['balance', file('plain.json'), '--at', 'nowhere'])).toBe(1);
    expect(printed.errors).toContain('nothing arrives at "nowhere". Choose one of');
    printed.errors = '';
    writeFileSync(
      file('silent.json'),
      writeSetupFile({
        ...voiceOver(),
        sources: voiceOver().sources.map((source) => ({ ...source, media: null })),
      }),
    );
    expect(await main(['balance', file('silent.json')])).toBe(1);
    expect(printed.errors).toContain('no source has a recording that arrives anywhere');
    expect(await main(['balance'])).toBe(2);
  });
});

describe('northfen reach', () => {
  test('lists every cell where something arrives or is wanted, over all pickups and scene by scene', async () => {
    writeFileSync(file('reach.json'), writeSetupFile(twoMachinesWithFaults()));
    expect(await main(['reach', file('reach.json'), '--json'])).toBe(0);
    const { cells, scenes } = JSON.parse(printed.out);
    const at = (list: { source: string; destination: string }[], source: string, destination: string) =>
      list.find((one) => one.source === source && one.destination === destination);
    expect(at(cells, 'reedbox', 'vod')).toEqual({
      ...{
        source: 'reedbox',
        destination: 'vod',
        gainDb: expect.closeTo(-23.959, 2),
        delayMs: 0,
        copies: 1,
        wantedDb: null,
      },
    });
    expect(at(cells, 'quillpage', 'live')).toMatchObject({
      gainDb: null,
      copies: 0,
      wantedDb: expect.any(Number),
    });
    expect(scenes.map(({ scene }: { scene: string }) => scene)).toEqual(
      twoMachinesWithFaults().scenes.map(({ id }) => id),
    );
    const silent = scenes.find(({ cells: list }: { cells: never[] }) => {
      const cell = at(list, 'narrator', 'live') as { gainDb: number | null } | undefined;
      return cell?.gainDb === null;
    });
    expect(silent).toBeDefined();
  });

  test('says it in words without --json', async () => {
    writeFileSync(file('reach.json'), writeSetupFile(regattaWithFaults()));
    expect(await main(['reach', file('reach.json')])).toBe(0);
    expect(printed.out).toContain('Reedbox at VOD: −16.0 dB (not wanted)');
    expect(printed.out).toContain('Bellbuoy at VOD: does not arrive (wanted at −8.0 dB)');
  });
});

describe('northfen mend', () => {
  test('writes the mended setup and says what it changed; no stop stands', async () => {
    writeFileSync(file('faulty.json'), writeSetupFile(twoMachinesWithFaults()));
    expect(await main(['mend', file('faulty.json'), '--out', file('mended.json'), '--json'])).toBe(0);
    const { steps, stopStands } = JSON.parse(printed.out);
    expect(stopStands).toBe(false);
    expect(steps[0].label).toMatch(/^Close Records on track 2/);
    expect(steps[0].effects).toEqual([
      { source: 'reedbox', destination: 'vod', scene: null, beforeDb: expect.closeTo(-24, 0), afterDb: null },
    ]);
    printed.out = '';
    expect(await main(['check', file('mended.json'), '--no-sound', '--json'])).toBe(0);
    expect(
      JSON.parse(printed.out).findings.filter(({ severity }: { severity: string }) => severity !== 'note'),
    ).toEqual([]);
    expect(readSetupFile(readFileSync(file('mended.json'), 'utf8')).intent.length).toBeGreaterThan(0);
  });
});
