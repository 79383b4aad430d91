import type { Page } from '@playwright/test';

/** Has a page keep every audio context that it makes, in `window.audioContexts`. Call it before the page is opened. */
export async function keepAudioContexts(page: Page): Promise<void> {
  await page.addInitScript(() => {
    const made: AudioContext[] = [];
    const Original = window.AudioContext;
    Object.assign(window, { audioContexts: made });
    window.AudioContext = class extends Original {
      constructor(options?: AudioContextOptions) {
        super(options);
        made.push(this);
      }
    };
  });
}

/** Where they are kept, seen from inside the page. */
export interface KeptAudioContexts {
  audioContexts: (AudioContext & { playbackStats: { totalDuration: number } })[];
}
