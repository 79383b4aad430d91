/** What a device may do to a sound by itself: a desk that gates, a driver that reduces noise. */
export const DEVICE_EFFECTS = ['gate', 'compressor', 'equaliser', 'noise reduction'] as const;
export type DeviceEffect = (typeof DEVICE_EFFECTS)[number];
