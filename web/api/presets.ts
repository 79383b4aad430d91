import { useQuery } from '@tanstack/react-query';
import type { Preset } from '../../core/records.ts';
import { request } from './client.ts';

/** Named processings, by name. */
export function usePresets() {
  return useQuery({ queryKey: ['presets'], queryFn: () => request<Preset[]>('/presets') });
}

/** Keeps a preset; one of the same name is replaced. */
export function savePreset(preset: Preset): Promise<void> {
  return request('/presets', { method: 'PUT', json: preset });
}

export function removePreset(name: string): Promise<void> {
  return request(`/presets/${encodeURIComponent(name)}`, { method: 'DELETE' });
}
