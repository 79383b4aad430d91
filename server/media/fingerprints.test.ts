import { join } from 'node:path';
import { afterAll, beforeAll, describe, expect, test } from '@jest/globals';
import { recordSound } from '../../core/demo/records.ts';
import { joinedPrints } from '../../core/measure/presence/fingerprint.ts';
import { testFolder, writeSound } from '../testing.ts';
import { fingerprintsOf } from './fingerprints.ts';

const folder = testFolder();
const path = join(folder.path, 'record.wav');
beforeAll(async () => {
  await writeSound(path, recordSound(3, 0.4, 20).left, {}, 'wav');
});
afterAll(folder.remove);

describe('fingerprints in parts', () => {
  test.each([1, 60, 200, 460])('joined at frame %i they are those of the whole', async (middle) => {
    const [whole] = (await fingerprintsOf(path, [0])).prints;
    const [first] = (await fingerprintsOf(path, [0], undefined, { fromFrame: 0, untilFrame: middle })).prints;
    const [second] = (await fingerprintsOf(path, [0], undefined, { fromFrame: middle, untilFrame: null }))
      .prints;
    expect([first.frames, second.frames]).toEqual([middle, whole.frames - middle]);
    const { values } = joinedPrints([first, second]);
    const differing = values.filter((value, at) => value !== whole.values[at]).length;
    expect(differing / values.length).toBeLessThan(1e-4);
  });

  test('a part that begins beyond the end is empty', async () => {
    const { prints } = await fingerprintsOf(path, [0], undefined, { fromFrame: 5000, untilFrame: null });
    expect(prints[0].frames).toBe(0);
  });
});
