/**
 * What differs between operating systems when the project's own commands start other programs. Nothing here looks at the
 * machine by itself: the platform is handed in, so that a test can ask for each.
 */

/** Where a package's command lies below the project, and how Node starts it: npm's own links to commands are shell scripts. */
export const COMMANDS = {
  tsc: 'typescript/bin/tsc',
  biome: '@biomejs/biome/bin/biome',
  depcruise: 'dependency-cruiser/bin/dependency-cruise.mjs',
  jest: 'jest/bin/jest.js',
  playwright: '@playwright/test/cli.js',
};

/** The arguments with which Node itself runs a package's command. */
export function nodeArgs(command, args) {
  const file = COMMANDS[command];
  if (!file) throw new Error(`there is no command ${command}`);
  return [`node_modules/${file}`, ...args];
}

/**
 * What the browser and media programs of the tests need where they are missing.
 * @param platform as `process.platform` names it
 * @param missing the Debian packages that are missing
 * @param isRoot whether the process may install them itself
 * @returns the commands to run, or a sentence for whoever has to install them by hand
 */
export function installPlan(platform, missing, isRoot, hasAptGet) {
  if (missing.length === 0) return { commands: [] };
  if (platform !== 'linux' || !hasAptGet)
    return {
      commands: [],
      sentence: `The tests need ${missing.join(' and ')}. Install ${missing.length > 1 ? 'them' : 'it'} and see that ${missing.length > 1 ? 'they are' : 'it is'} found on the PATH, then run the tests again.`,
    };
  const sudo = isRoot ? [] : ['sudo'];
  return {
    commands: [
      [...sudo, 'apt-get', '-qq', 'update'],
      [...sudo, 'apt-get', '-qq', 'install', '-y', '--no-install-recommends', ...missing],
    ],
  };
}
