import { describe, expect, test } from '@jest/globals';
import { aacLayoutOf } from './aacLayout.ts';
import { aacPacketBytes, isAlike } from './aacPacket.ts';
import { unitOf } from './nalUnit.ts';

describe('what decoders of AAC are told', () => {
  test.each([
    ['48 kHz, two channels', [0x11, 0x90], { rateHz: 48_000, channelConfiguration: 2 }],
    ['44.1 kHz, one channel', [0x12, 0x08], { rateHz: 44_100, channelConfiguration: 1 }],
    [
      'with what is above half the rate apart',
      [0x2b, 0x11, 0x88, 0x00],
      { rateHz: 24_000, channelConfiguration: 2 },
    ],
    ['channels that are described elsewhere', [0x11, 0x80], null],
    ['packets of 960 samples', [0x11, 0x94], null],
    ['another kind of AAC', [0x09, 0x90], null],
  ])('%s', (_, bytes, layout) => {
    expect(aacLayoutOf(Uint8Array.from(bytes))).toEqual(layout);
  });

  test('tracks are alike where the same bands and channels make their packets', () => {
    const at = (rateHz: number, channelConfiguration = 2) => ({ rateHz, channelConfiguration });
    expect(isAlike(at(48_000), at(44_100))).toBe(true);
    expect(isAlike(at(48_000), at(32_000))).toBe(false);
    expect(isAlike(at(48_000), at(48_000, 1))).toBe(false);
  });
});

describe('packets of AAC', () => {
  const layout = { rateHz: 48_000, channelConfiguration: 1 };
  /** One channel: its gain, one long window of no bands, no tools; then the end. */
  const SILENT = [0x01, 0x00, 0x00, 0x07];

  test('end where their last element says', () => {
    expect(aacPacketBytes(Uint8Array.from([...SILENT, 1, 2, 3]), 0, layout)).toBe(SILENT.length);
    expect(aacPacketBytes(Uint8Array.from([9, 9, ...SILENT]), 2, layout)).toBe(SILENT.length);
  });

  test('do not begin in zeros, end with the bytes, or have other channels', () => {
    expect(aacPacketBytes(new Uint8Array(4096), 0, layout)).toBeNull();
    expect(aacPacketBytes(Uint8Array.from(SILENT.slice(0, -1)), 0, layout)).toBeNull();
    expect(aacPacketBytes(Uint8Array.from(SILENT), 0, { ...layout, channelConfiguration: 2 })).toBeNull();
  });
});

describe('units of pictures', () => {
  const slice = (isKey: boolean, first: number[]) =>
    Uint8Array.from([isKey ? 0x65 : 0x41, ...first, 0, 0, 0]);

  test.each([
    [
      'the first slice of a key picture',
      'avc',
      slice(true, [0x88, 0x84]),
      { role: 'slice', begins: true, isKey: true },
    ],
    [
      'a slice further down',
      'avc',
      slice(false, [0x4d, 0xff]),
      { role: 'slice', begins: false, isKey: false },
    ],
    [
      'a delimiter of two bytes',
      'avc',
      Uint8Array.from([0x09, 0xf0]),
      { role: 'before', begins: true, isKey: false },
    ],
    ['filler', 'avc', Uint8Array.from([0x0c, 0xff]), { role: 'behind', begins: false, isKey: false }],
    ['a number that nobody uses', 'avc', Uint8Array.from([0x1f, 0x00]), null],
    ['the forbidden bit', 'avc', Uint8Array.from([0xe5, 0x88, 0x84]), null],
    [
      'the first slice of a key picture',
      'hevc',
      Uint8Array.from([0x26, 0x01, 0xaf]),
      { role: 'slice', begins: true, isKey: true },
    ],
    [
      'a parameter set',
      'hevc',
      Uint8Array.from([0x42, 0x01, 0x01]),
      { role: 'before', begins: true, isKey: false },
    ],
    [
      'information behind',
      'hevc',
      Uint8Array.from([0x50, 0x01, 0x84]),
      { role: 'behind', begins: false, isKey: false },
    ],
    ['a header without its time', 'hevc', Uint8Array.from([0x26, 0x00, 0xaf]), null],
  ] as const)('%s (%s)', (_, codec, head, unit) => {
    expect(unitOf(codec, head)).toEqual(unit);
  });
});
