import { readdirSync } from 'node:fs';
import { fileURLToPath } from 'node:url';
import { expect, type Page, test } from '@playwright/test';
import { regattaMadeRight } from '../core/demo/setups.ts';
import { compileDestinations } from '../core/engine/destinations.ts';
import { reportLength } from '../core/engine/rehearsal.ts';
import { Renderer } from '../core/engine/renderer.ts';
import { PROCESSORS, type Processing } from '../core/processors/processing.ts';
import { applyEdit } from '../core/setup/edits.ts';
import type { Setup } from '../core/setup/schema.ts';
import { loadNoiseReduction } from '../core/signal/noiseReduction.ts';
import { WORKED_VOICE } from '../core/testing/processings.ts';
import { type KeptAudioContexts, keepAudioContexts } from './audioContexts.ts';
import { keyFrames, recordAudio, recordedSoFar, startAnew } from './recordAudio.ts';
import { readStem } from './stems.ts';

const DUCKED: Processing = [{ ...PROCESSORS.ducking.initial, key: 'narrator' }];

const SECONDS = 6;
const FRAMES = SECONDS * 48_000;

async function openRehearsal(page: Page, from = 'regatta-made-right'): Promise<{ id: string; setup: Setup }> {
  const answer = await page.request.post('/api/setups', { data: { from } });
  const stored = (await answer.json()) as { id: string; setup: Setup };
  await page.goto(`/setups/${stored.id}/rehearse`);
  await expect(page.getByRole('button', { name: 'Play' })).toBeVisible({ timeout: 60_000 });
  return stored;
}

/** The short-term figure beside a meter (LUFS), or null while there is none. */
async function figureOf(page: Page, name: string): Promise<number | null> {
  const text = (await page.locator(`[data-meter="${name}"]`).locator('..').textContent()) ?? '';
  return text.trim() === '–' ? null : Number(text.trim().replace('−', '-'));
}

test('everything sounds, heard as any destination hears it; mutes act on one destination alone', async ({
  page,
}) => {
  await openRehearsal(page);
  await page.keyboard.press(' ');
  await expect(page.getByRole('button', { name: 'Pause' })).toBeVisible({ timeout: 60_000 });
  await expect.poll(() => figureOf(page, 'Live'), { timeout: 20_000 }).toBeGreaterThan(-30);
  await expect.poll(() => page.getByTestId('clock').textContent()).not.toBe('0:00');
  await expect(page.getByRole('button', { name: /Live/, pressed: true })).toBeVisible();
  await page.keyboard.press('1');
  await expect(page.getByRole('button', { name: /Own headphones/, pressed: true })).toBeVisible();
  await page.keyboard.press('c');
  await expect(page.getByRole('button', { name: /Live/, pressed: true })).toBeVisible();
  await page.keyboard.press('c');

  const records = page.getByRole('button', { name: 'Mute Reedbox at all' });
  await expect.poll(() => figureOf(page, 'Records'), { timeout: 20_000 }).toBeGreaterThan(-30);
  await records.click();
  await expect.poll(() => figureOf(page, 'Records'), { timeout: 20_000 }).toBeNull();
  await records.click();
  await expect.poll(() => figureOf(page, 'Records'), { timeout: 20_000 }).toBeGreaterThan(-30);
  await page.getByRole('button', { name: 'Mute Reedbox here' }).click();
  await expect(page.getByRole('button', { name: 'Mute Reedbox here', pressed: true })).toBeVisible();
  await page.waitForTimeout(3500);
  expect(await figureOf(page, 'Records')).toBeGreaterThan(-30);
  await page.getByRole('button', { name: 'Unmute all (1)' }).click();
});

test.describe('what the audio thread plays', () => {
  test.use({ bypassCSP: true });

  test('a mute by key is heard within a tenth of a second', async ({ page }) => {
    await recordAudio(page);
    await openRehearsal(page);
    await page.keyboard.press(' ');
    await expect(page.getByRole('button', { name: 'Pause' })).toBeVisible({ timeout: 60_000 });
    await page.getByRole('button', { name: /Records/ }).click();
    await page.getByRole('row', { name: /Reedbox/ }).click({ position: { x: 60, y: 20 } });
    const delays: number[] = [];
    for (let attempt = 0; attempt < 5; attempt++) {
      await page.waitForTimeout(500);
      await startAnew(page);
      await page.waitForTimeout(300);
      await page.keyboard.press('m');
      await page.waitForTimeout(500);
      const [pressedAt] = await keyFrames(page);
      const { frame, left } = await recordedSoFar(page);
      await page.keyboard.press('m');
      const sounded = left.findLastIndex((value) => Math.abs(value) > 1e-6);
      expect(sounded).toBeGreaterThan(0);
      expect(sounded).toBeLessThan(left.length - 4800);
      delays.push((frame + sounded - pressedAt) / 48);
    }
    // The best of five: another program may have had the processor. The browser mixes 25 ms ahead, which is to be added.
    expect(Math.min(...delays)).toBeLessThan(100 - 25);
  });
});

test('a level that is changed by key while it plays is an edit like any other', async ({ page }) => {
  const { id } = await openRehearsal(page);
  await page.keyboard.press('3');
  await page.keyboard.press('ArrowDown');
  for (let press = 0; press < 3; press++) await page.keyboard.press('-');
  await expect(page.getByRole('textbox', { name: 'Lock & Paddle at Live', exact: true })).toHaveValue(
    '−14.5',
  );
  await expect
    .poll(async () => {
      const { setup } = (await (await page.request.get(`/api/setups/${id}`)).json()) as { setup: Setup };
      return setup.sends.find(({ pickup, to }) => pickup === 'game.pickup' && to === 'live-mix')?.gainDb;
    })
    .toBe(-14.5);
  await page.keyboard.press('Control+z');
  await expect(page.getByRole('textbox', { name: 'Lock & Paddle at Live', exact: true })).toHaveValue(
    '−13.5',
  );
  await page.keyboard.press('[');
  await expect(page.getByLabel('Lock & Paddle for all')).toHaveValue('−1.0');
  await expect(page.getByRole('textbox', { name: 'Lock & Paddle at Live', exact: true })).toHaveValue(
    '−14.5',
  );
  await page.keyboard.press('1');
  await expect(
    page.getByRole('textbox', { name: 'Lock & Paddle at Own headphones', exact: true }),
  ).toHaveValue('−12.4');
  await page.keyboard.down('Shift');
  await page.keyboard.down('H');
  await expect(page.getByRole('button', { name: 'Mute Lock & Paddle at all', pressed: true })).toBeVisible();
  await page.keyboard.up('H');
  await page.keyboard.up('Shift');
  await expect(page.getByRole('button', { name: 'Mute Lock & Paddle at all', pressed: false })).toBeVisible();
});

test('it goes to the moment where the alert sounds, and repeats a passage', async ({ page }) => {
  await openRehearsal(page);
  await page
    .getByRole('button', { name: /Bellbuoy over Narrator/ })
    .first()
    .click();
  await expect(page.getByRole('button', { name: 'Pause' })).toBeVisible({ timeout: 60_000 });
  await expect.poll(() => page.getByTestId('clock').textContent()).toMatch(/0:3[4-9]/);
  await page.keyboard.press('l');
  const end = page.getByRole('button', { name: /End the loop/ });
  await expect(end).toBeVisible();
  const clock = async () => Number(((await page.getByTestId('clock').textContent()) ?? '').split(':')[1]);
  const seen: number[] = [];
  for (let look = 0; look < 30; look++) {
    seen.push(await clock());
    await page.waitForTimeout(300);
  }
  expect(Math.max(...seen)).toBeLessThan(45);
  expect(seen.some((time, i) => i > 0 && time < seen[i - 1])).toBe(true);
  await end.click();
});

test('listening goes on from screen to screen, and when a track is added; a key stops it', async ({
  page,
}) => {
  const answer = await page.request.post('/api/setups', { data: { from: 'voice-over' } });
  const { id, revision } = (await answer.json()) as { id: string; revision: number };
  await page.goto(`/setups/${id}/sources`);
  await expect(page.getByLabel('Hear it as')).toHaveValue('headphones');
  await page.getByRole('button', { name: 'Listen', exact: true }).click();
  await expect(page.getByTestId('heard-at')).toHaveText(/0:0[1-9]/, { timeout: 60_000 });
  await page.getByLabel('Hear it as').selectOption('master');
  await page.getByRole('link', { name: /Reach$/ }).click();
  const track = { name: 'Extra', uses: ['file'], purpose: 'edit', codec: 'pcm-s24', layout: 'stereo' };
  const edit = { edit: 'addTrack', track };
  await page.request.post(`/api/setups/${id}/edits`, { data: { revision, edit } });
  await expect(page.getByRole('columnheader', { name: /Extra/ })).toBeVisible();
  await expect(page.getByTestId('heard-at')).toHaveText(/0:(0[3-9]|1\d)/, { timeout: 30_000 });
  await expect(page.getByLabel('Hear it as')).toHaveValue('master');
  await page.getByRole('heading', { name: 'What reaches whom' }).click();
  await page.keyboard.press('p');
  await expect(page.getByRole('button', { name: 'Listen', exact: true })).toBeVisible();
});

test('it goes on in a tab in the background, and says so when the output is taken away', async ({
  page,
  context,
}) => {
  await keepAudioContexts(page);
  await openRehearsal(page);
  const seconds = async () => {
    const [minutes, rest] = ((await page.getByTestId('clock').textContent()) ?? '').split(':').map(Number);
    return 60 * minutes + rest;
  };
  await page.keyboard.press(' ');
  await expect.poll(seconds, { timeout: 60_000 }).toBeGreaterThan(0);
  const before = await seconds();
  const other = await context.newPage();
  await other.bringToFront();
  await other.waitForTimeout(8000);
  await page.bringToFront();
  await expect.poll(seconds).toBeGreaterThanOrEqual(before + 6);
  await other.close();

  await page.evaluate(() => (window as unknown as KeptAudioContexts).audioContexts[0].suspend());
  await expect(page.getByRole('alert')).toContainText('The output was taken away. Press play to go on.');
  const stopped = await seconds();
  await page.getByRole('button', { name: 'Play' }).click();
  await expect.poll(seconds).toBeGreaterThan(stopped);
});

test('a voice is processed while it plays: set from its recording, changed, bypassed, undone', async ({
  page,
}) => {
  const { id } = await openRehearsal(page, 'regatta-with-faults');
  const processing = async () => {
    const { setup } = (await (await page.request.get(`/api/setups/${id}`)).json()) as { setup: Setup };
    return setup.sources.find((source) => source.id === 'minnow')?.processing ?? [];
  };
  await page.getByRole('button', { name: 'Processing of Minnow' }).click();
  const sheet = page.getByRole('dialog');
  await expect(sheet).toContainText('Nothing is done to it yet');
  await expect(sheet).toContainText('It hums at 50 Hz', { timeout: 30_000 });
  await sheet.getByRole('button', { name: 'Set high-pass, gate and trim' }).click();
  await expect(sheet.getByRole('listitem')).toHaveCount(5);
  await expect(sheet.getByRole('figure', { name: 'What the filters do' })).toBeVisible();
  await expect
    .poll(async () => (await processing()).map((step) => (step.does === 'band' ? step.hz : step.does)))
    .toEqual(['high-pass', 50, 100, 150, 'trim']);
  const corner = sheet.getByLabel('at Hz').first();
  await corner.fill('5');
  await corner.press('Enter');
  await expect(sheet.getByRole('alert')).toContainText('a figure from 10 to 20000');
  await corner.fill('120');
  await corner.press('Enter');
  await expect.poll(async () => (await processing())[0]).toEqual({ does: 'high-pass', hz: 120 });
  await sheet.getByRole('button', { name: 'Bypass all' }).click();
  await expect.poll(async () => (await processing()).every(({ off }) => off)).toBe(true);
  await page.keyboard.press('Escape');
  await page.keyboard.press('Control+z');
  await expect.poll(async () => (await processing()).some(({ off }) => off)).toBe(false);
});

test('records make room for the voice at one destination; presets; heard without it, as loud', async ({
  page,
}) => {
  const { id } = await openRehearsal(page);
  const sends = async () => {
    const { setup } = (await (await page.request.get(`/api/setups/${id}`)).json()) as { setup: Setup };
    return setup.sends.filter(({ pickup }) => pickup === 'reedbox.pickup');
  };
  await page.keyboard.press('3');
  await page.keyboard.press(' ');
  await expect(page.getByRole('button', { name: 'Pause' })).toBeVisible({ timeout: 60_000 });
  await page.getByRole('button', { name: 'Processing of Reedbox' }).click();
  const sheet = page.getByRole('dialog');
  await sheet.getByRole('radio', { name: 'On its way to Live alone' }).click();
  await expect(sheet).toContainText('Nobody else gets it so.');
  await sheet.getByRole('button', { name: 'Add ducking' }).click();
  await sheet.getByLabel('Ducks under').selectOption('narrator');
  await expect
    .poll(async () =>
      (await sends()).map(({ to, processing = [] }) => [to, ...processing.map((one) => one.does)]),
    )
    .toContainEqual(['live-mix', 'ducking']);
  expect((await sends()).filter(({ processing }) => processing)).toHaveLength(1);

  const without = sheet.getByRole('button', { name: 'Hear it without, as loud' });
  await without.click();
  await expect(sheet.getByRole('status')).toContainText(/unprocessed, −\d\.\d dB so that it is as loud/, {
    timeout: 60_000,
  });
  expect((await sends()).find(({ to }) => to === 'live-mix')?.processing?.[0].does).toBe('ducking');
  await sheet.getByRole('button', { name: 'Heard without it' }).click();
  await sheet.getByRole('button', { name: 'Hear it without the ducking 1, as loud' }).click();
  await expect(sheet.getByRole('status')).toContainText(/without step 1, −\d\.\d dB so that it is as loud/, {
    timeout: 60_000,
  });
  await sheet.getByRole('button', { name: 'Hear it without the ducking 1, as loud' }).click();
  await expect(sheet.getByRole('status')).toHaveCount(0);

  await sheet.getByRole('button', { name: 'Keep as a preset' }).click();
  await sheet.getByLabel('Name of the preset').fill('Room for the voice');
  await sheet.getByLabel('Name of the preset').press('Enter');
  await expect(sheet.getByLabel('Preset', { exact: true })).toHaveValue('Room for the voice');
  await page.keyboard.press('Escape');
  await page.getByRole('button', { name: 'Processing of Quillpage' }).click();
  await sheet.getByLabel('Preset', { exact: true }).selectOption('Room for the voice');
  await expect(sheet.getByRole('list', { name: 'Steps' })).toContainText('ducking');

  await sheet.getByRole('button', { name: 'Add equaliser band' }).click();
  const knob = sheet.getByRole('slider', { name: 'Filter of step 2' });
  await knob.press('ArrowUp');
  await expect(knob).toHaveAttribute('aria-valuetext', '3000 Hz, 3.5 dB, Q 1');
  const box = await knob.boundingBox();
  if (!box) throw new Error('the knob is drawn');
  await page.mouse.move(box.x + 10, box.y + 10);
  await page.mouse.down();
  await page.mouse.move(box.x - 60, box.y + 40, { steps: 5 });
  await page.mouse.up();
  await expect(knob).toHaveAttribute('aria-valuetext', /^\d{3,4} Hz, -\d+(\.5)? dB, Q 1$/);
  await expect(sheet.getByTestId('spectrum').locator('polygon')).toHaveAttribute('points', /\d/);
  await sheet.getByRole('button', { name: 'Remove the preset Room for the voice' }).click();
  await expect(sheet.getByLabel('Preset', { exact: true })).toHaveCount(0);
});

test('what the audio thread of the browser makes is, sample for sample, what a render makes', async ({
  page,
}) => {
  await loadNoiseReduction();
  const { setup } = await openRehearsal(page);
  const assets = readdirSync(fileURLToPath(new URL('../dist/web/assets', import.meta.url)));
  const [url, noiseReductionUrl] = ['rehearsalProcessor-', 'rnnoise-'].map(
    (start) => `/assets/${assets.find((name) => name.startsWith(start))}`,
  );
  const stems = await Promise.all(
    setup.sources.map((source) => readStem(page, source.media?.path ?? '', FRAMES)),
  );
  const processed = applyEdit(regattaMadeRight(), {
    edit: 'batch',
    label: 'process',
    edits: [
      { edit: 'updateSource', id: 'narrator', values: { processing: WORKED_VOICE } },
      { edit: 'setSend', pickup: 'reedbox.pickup', to: 'live-mix', gainDb: -14, processing: DUCKED },
    ],
  });
  const rehearsable = compileDestinations(processed);
  const renderer = new Renderer(rehearsable.schedule, FRAMES);
  renderer.render(stems, FRAMES);
  for (const id of ['headphones', 'live', 'voice']) {
    const destination = rehearsable.destinations.findIndex((one) => one.id === id);
    const [left, right] = await page.evaluate(playOffline, {
      url,
      noiseReductionUrl,
      destination,
      seconds: SECONDS,
      paths: setup.sources.map(({ media }) => media?.path ?? ''),
      reportLength: reportLength(rehearsable.destinations.length, setup.sources.length),
      destinations: rehearsable.destinations,
      schedule: Object.fromEntries(
        Object.entries(rehearsable.schedule).map(([key, value]) => [
          key,
          ArrayBuffer.isView(value)
            ? { kind: value.constructor.name, values: [...(value as Int32Array)] }
            : value,
        ]),
      ),
    });
    const expected = renderer.outputs[rehearsable.destinations[destination].parts[0].output];
    expect(peakOf(Float32Array.from(left))).toBeGreaterThan(0.01);
    expect(differences(left, expected[0])).toBe(0);
    expect(differences(right, expected[1])).toBe(0);
  }
});

/** How many samples differ, after the destination has been gone over to. */
function differences(heard: number[], rendered: Float32Array): number {
  let count = 0;
  for (let i = 512; i < FRAMES; i++) if (Math.fround(heard[i]) !== rendered[i]) count += 1;
  return count;
}

function peakOf(samples: Float32Array): number {
  return samples.reduce((top, value) => Math.max(top, Math.abs(value)), 0);
}

interface OfflinePlay {
  url: string;
  noiseReductionUrl: string;
  destination: number;
  seconds: number;
  paths: string[];
  reportLength: number;
  destinations: unknown[];
  schedule: Record<string, unknown>;
}

/** Runs in the page: plays through the worklet faster than real time, and gives back both sides. */
async function playOffline(play: OfflinePlay): Promise<[number[], number[]]> {
  const kinds: Record<string, { from(values: number[]): ArrayBufferView }> = {
    Int32Array,
    Float64Array,
    Uint8Array,
  };
  const schedule = Object.fromEntries(
    Object.entries(play.schedule).map(([key, value]) => {
      const typed = value as { kind?: string; values: number[] };
      return [key, typed?.kind ? kinds[typed.kind].from(typed.values) : value];
    }),
  );
  const frames = play.seconds * 48_000;
  const context = new OfflineAudioContext(2, frames, 48_000);
  await context.audioWorklet.addModule(play.url);
  const noiseReduction = await WebAssembly.compileStreaming(fetch(play.noiseReductionUrl));
  const node = new AudioWorkletNode(context, 'northfen-rehearsal', {
    numberOfInputs: 0,
    outputChannelCount: [2],
    processorOptions: {
      rehearsable: { schedule, destinations: play.destinations },
      stems: play.paths.map(() => true),
      ringFrames: frames,
      endFrame: frames,
      report: new SharedArrayBuffer(8 * play.reportLength),
      noiseReduction,
    },
  });
  node.connect(context.destination);
  for (const [source, path] of play.paths.entries()) {
    const answer = await fetch(`/api/sounds/stem?${new URLSearchParams({ path })}`, {
      headers: { Range: `bytes=0-${frames * 8 - 1}` },
    });
    const packed = new Float32Array(await answer.arrayBuffer());
    const [left, right] = [new Float32Array(frames), new Float32Array(frames)];
    for (let i = 0; i < packed.length / 2; i++) {
      left[i] = packed[2 * i];
      right[i] = packed[2 * i + 1];
    }
    node.port.postMessage({ do: 'feed', source, at: 0, left, right, epoch: 0 });
  }
  node.port.postMessage({ do: 'listen', destination: play.destination });
  node.port.postMessage({ do: 'play' });
  await new Promise((resolve) => setTimeout(resolve, 1500));
  const rendered = await context.startRendering();
  return [Array.from(rendered.getChannelData(0)), Array.from(rendered.getChannelData(1))];
}
