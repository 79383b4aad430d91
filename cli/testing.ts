import { afterEach, beforeEach, jest } from '@jest/globals';

/** What a command printed since the test began. */
export const printed = { out: '', errors: '' };

/** Catches what commands print, in every test of a file. */
export function catchPrinted(): void {
  beforeEach(() => {
    printed.out = '';
    printed.errors = '';
    jest.spyOn(process.stdout, 'write').mockImplementation((text) => {
      printed.out += text;
      return true;
    });
    jest.spyOn(process.stderr, 'write').mockImplementation((text) => {
      printed.errors += text;
      return true;
    });
  });
  afterEach(() => {
    jest.restoreAllMocks();
  });
}
