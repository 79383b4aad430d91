import { existsSync, readFileSync } from 'node:fs';
import { join } from 'node:path';
import { fileURLToPath } from 'node:url';
import { describe, expect, test } from '@jest/globals';

const root = fileURLToPath(new URL('..', import.meta.url));
const { COMMANDS, installPlan, nodeArgs } = (await import('./platform.mjs' as string)) as {
  COMMANDS: Record<string, string>;
  nodeArgs(command: string, args: string[]): string[];
  installPlan(
    platform: string,
    missing: string[],
    isRoot: boolean,
    hasAptGet: boolean,
  ): { commands: string[][]; sentence?: string };
};
const { thirdPartyText } = (await import('./thirdParty.mjs' as string)) as { thirdPartyText(): string };

describe('the project’s own commands', () => {
  test('start packages’ commands with Node itself, from files that are there', () => {
    for (const file of Object.values(COMMANDS))
      expect(existsSync(join(root, 'node_modules', file))).toBe(true);
    expect(nodeArgs('jest', ['--json'])).toEqual(['node_modules/jest/bin/jest.js', '--json']);
    expect(() => nodeArgs('npx', [])).toThrow('there is no command npx');
  });

  test.each(['win32', 'darwin'])('on %s say what to install, and run nothing', (platform) => {
    const plan = installPlan(platform, ['chromium', 'ffmpeg'], false, false);
    expect(plan.commands).toEqual([]);
    expect(plan.sentence).toMatch(/The tests need chromium and ffmpeg. Install them/);
    expect(installPlan(platform, [], false, false)).toEqual({ commands: [] });
  });

  test('on Debian install by apt-get, with sudo where it is needed', () => {
    expect(installPlan('linux', ['ffmpeg'], true, true).commands[0]).toEqual(['apt-get', '-qq', 'update']);
    expect(installPlan('linux', ['ffmpeg'], false, true).commands[1].slice(0, 2)).toEqual([
      'sudo',
      'apt-get',
    ]);
    expect(installPlan('linux', ['ffmpeg'], false, false).sentence).toMatch(/Install it/);
  });

  test('use no Unix shell, no links, and no paths that only Unix has', () => {
    const scripts = ['ensure', 'test', 'build', 'demo', 'start', 'bench', 'attack', 'bundle', 'pack'];
    for (const name of scripts) {
      const text = readFileSync(join(root, 'scripts', `${name}.mjs`), 'utf8');
      expect(text).not.toMatch(/spawnSync\('(which|npm|npx|sh|bash|node)'|symlink|shell: true|exec\(/);
    }
    const { scripts: commands } = JSON.parse(readFileSync(join(root, 'package.json'), 'utf8'));
    for (const command of Object.values(commands)) expect(command).toMatch(/^(node|tsc|biome) [^|&;<>$]*$/);
  });
});

test('THIRD-PARTY.md lists what is installed', () => {
  expect(readFileSync(join(root, 'THIRD-PARTY.md'), 'utf8')).toBe(thirdPartyText());
});
