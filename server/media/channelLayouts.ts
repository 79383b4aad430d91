import {
  AV_CHANNEL_LAYOUT_5POINT1_BACK,
  AV_CHANNEL_LAYOUT_7POINT1,
  AV_CHANNEL_LAYOUT_MONO,
  AV_CHANNEL_LAYOUT_QUAD,
  AV_CHANNEL_LAYOUT_STEREO,
} from 'node-av';

/** The orders of channels that decoders and encoders are told of, by how many channels there are; others have none. */
export const CHANNEL_LAYOUTS: Readonly<Record<number, typeof AV_CHANNEL_LAYOUT_MONO>> = {
  1: AV_CHANNEL_LAYOUT_MONO,
  2: AV_CHANNEL_LAYOUT_STEREO,
  4: AV_CHANNEL_LAYOUT_QUAD,
  6: AV_CHANNEL_LAYOUT_5POINT1_BACK,
  8: AV_CHANNEL_LAYOUT_7POINT1,
};
