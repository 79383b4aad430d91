/**
 * MOV numbers languages in a table of its own (QuickTime File Format, Language Code Values), which FFmpeg knows by these codes; those of
 * ISO 639-2/T, which are read from files, are others. What is not in here goes by its own code.
 */
const CALLED: Record<string, string> = {
  deu: 'ger',
  ell: 'gre',
  fao: 'fo ',
  hrv: 'hr ',
  hye: 'arm',
  isl: 'ice',
  kat: 'geo',
  mkd: 'mac',
  nld: 'dut',
  sqi: 'alb',
  srp: 'sr ',
  swe: 'sve',
  zho: 'chi',
};

/** The code by which FFmpeg writes a language (ISO 639-2/T) into MOV. */
export function movLanguage(code: string): string {
  return CALLED[code] ?? code;
}
