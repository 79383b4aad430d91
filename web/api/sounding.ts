import type { Sounding } from '../../core/sounding/sounding.ts';
import { today } from '../format.ts';
import { request } from './client.ts';

/** Where the test sound of a source is to be had. */
export function testSoundUrl(setupId: string, source: string): string {
  return `/api/setups/${setupId}/sounding/${source}.wav`;
}

/** Reads a recording of test sounds. @throws {ApiError} */
export function readSounding(setupId: string, recording: File, signal: AbortSignal): Promise<Sounding> {
  const query = new URLSearchParams({ today: today(), name: recording.name.slice(0, 200) });
  return request<Sounding>(`/setups/${setupId}/sounding?${query}`, {
    method: 'POST',
    body: recording,
    headers: { 'Content-Type': 'application/octet-stream' },
    signal,
  });
}

/** Reads the test sounds in a simulated room that differs from the setup. @throws {ApiError} */
export function simulateSounding(setupId: string, signal: AbortSignal): Promise<Sounding> {
  return request<Sounding>(`/setups/${setupId}/sounding/simulated?today=${today()}`, {
    method: 'POST',
    signal,
  });
}
