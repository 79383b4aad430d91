import { Command, CommanderError, InvalidArgumentError, Option } from 'commander';
import { SetupFileError } from '../core/setup/file.ts';
import { balance } from './balance.ts';
import { calibrate } from './calibrate.ts';
import { check } from './check.ts';
import { extract } from './extract.ts';
import { handoff } from './handoff.ts';
import { inspect } from './inspect.ts';
import { join } from './join.ts';
import { loudness } from './loudness.ts';
import { mend } from './mend.ts';
import { presence } from './presence.ts';
import { reach } from './reach.ts';
import { render } from './render.ts';
import { repair } from './repair.ts';
import { rescue } from './rescue.ts';
import { rewrap } from './rewrap.ts';
import { serve } from './serve.ts';
import { readRecording, writeTestSounds } from './sound.ts';
import { upload } from './upload.ts';
import { verify } from './verify.ts';

/** How the command ends: 0 well, 1 failed, 2 used wrongly, 3 a stop stands or something is not as it must be, 4 that cannot be tested. */
type ExitCode = 0 | 1 | 2 | 3 | 4;

/** Runs the northfen command. @param args what follows the command's name */
export async function main(args: string[]): Promise<ExitCode> {
  let code: ExitCode = 0;
  const program = new Command('northfen')
    .description(
      'Decide which sound reaches which destination, see that it is so, and prove it by measurement.',
    )
    .exitOverride()
    .configureHelp({ showGlobalOptions: true });

  program
    .command('loudness')
    .description('Measure loudness and true peak of every audio track of a file.')
    .argument('<file>', 'an audio or video file')
    .option('--json', 'print one JSON object')
    .option('--allow-cut', 'take a WAV that holds less than its header promises')
    .action(async (file, options) => {
      await loudness(file, options);
    });

  program
    .command('presence')
    .description('Say whether, where and how loud one sound is in another.')
    .requiredOption('--reference <file>', 'the sound to look for')
    .requiredOption('--in <file>', 'the file to look in')
    .option('--track <number>', 'which audio track of it, counted from 1', wholeNumber, 1)
    .option('--whole-file', 'look for the sound at any offset, not only within half a second')
    .option('--json', 'print one JSON object')
    .action(async (options) => {
      await presence(options);
    });

  program
    .command('check')
    .description(
      'List the findings of a setup file by their causes, in its routing and in its sound. Exit code 3 when a stop-finding stands.',
    )
    .argument('<setup>', 'a setup file (.json)')
    .option('--no-sound', 'leave the recordings alone, which takes much less time')
    .option('--media-anywhere', 'follow links of recordings out of the setup file’s folder')
    .option('--json', 'print one JSON object')
    .action(async (file, options) => {
      if (await check(file, options)) code = 3;
    });

  program
    .command('reach')
    .description(
      'Say what arrives where, at which level and how late, beside what is wanted; in each scene, too.',
    )
    .argument('<setup>', 'a setup file (.json)')
    .option('--json', 'print one JSON object')
    .action(async (file, options) => {
      await reach(file, options);
    });

  program
    .command('mend')
    .description(
      'Take the first remedy of the gravest cause, again and again, without giving up what is wanted. Exit code 3 when a stop still stands.',
    )
    .argument('<setup>', 'a setup file (.json)')
    .requiredOption('--out <setup>', 'write the mended setup here')
    .option('--json', 'print one JSON object')
    .action(async (file, options) => {
      if (await mend(file, options)) code = 3;
    });

  program
    .command('render')
    .description(
      'Render a take of a setup file, measure it and prove it. Media paths are relative to the setup file.',
    )
    .argument('<setup>', 'a setup file (.json)')
    .requiredOption('--out <file.mkv>', 'the take to write')
    .option('--media-anywhere', 'follow links of recordings out of the setup file’s folder')
    .option('--json', 'print one JSON object')
    .action(async (file, options) => {
      await render(file, options);
    });

  program
    .command('balance')
    .description('Solve the levels of a setup file for its targets, and print levels and figures.')
    .argument('<setup>', 'a setup file (.json)')
    .option('--at <id>', 'one destination; all but the tracks for editing when left out')
    .option('--media-anywhere', 'follow links of recordings out of the setup file’s folder')
    .option('--out <setup>', 'write the setup with the new levels here')
    .option('--json', 'print one JSON object')
    .action(async (file, options) => {
      await balance(file, options);
    });

  program
    .command('calibrate')
    .description('Read noise floor, speech level, gate threshold and hum from a recording of a voice.')
    .argument('<file>', 'an audio or video file')
    .option('--json', 'print one JSON object')
    .action(async (file, options) => {
      await calibrate(file, options);
    });

  program
    .command('inspect')
    .description(
      'Measure every audio track of a recording: loudness, silence, clipping, sides, hum; which are equal or sums of others, and what each seems to carry.',
    )
    .argument('<file>', 'an audio or video file')
    .option('--json', 'print one JSON object')
    .action(async (file, options) => {
      await inspect(file, options);
    });

  program
    .command('verify')
    .description(
      'Check recordings for sounds that must not be in them: where, how loud, or that they are clean. Exit code 3 when one is not clean, 4 when that cannot be tested of one.',
    )
    .argument('<files...>', 'audio or video files, or folders of them')
    .option('--setup <setup>', 'what must not be where, by the clearances of a setup file')
    .option(
      '--reference <file>',
      'a sound that must not be in it, wherever it begins, or a folder of them; may be repeated',
      listed,
    )
    .option(
      '--forbid <track>',
      'a track of the file that must not be in others; may be repeated',
      trackNumbers,
    )
    .option('--in <track>', 'a track to look in; all others when left out; may be repeated', trackNumbers)
    .option('--media-anywhere', 'follow links of recordings out of the setup file’s folder')
    .option(
      '--keep <file.json>',
      'keep what was found in this file, and go on from there another time: what has not changed is not checked again',
    )
    .option('--watch', 'watch folders: check each new recording as soon as it is whole, until Ctrl C')
    .option('--json', 'print one JSON object; with --watch, one a line for each recording')
    .action(async (files, options) => {
      const verdict = await verify(files, options);
      code = verdict === 'clean' ? 0 : verdict === 'not clean' ? 3 : 4;
    });

  program
    .command('repair')
    .description(
      'Write a damaged recording anew, up to its last whole packet, with everything that it still has. Nothing is coded again; the damaged file stays.',
    )
    .argument('<in>', 'the damaged recording')
    .argument('<out>', 'the new file: .mkv, .mp4, .mov or .wav')
    .option(
      '--like <whole>',
      'a whole recording made by the same program with the same settings: it shows how to read an MP4 or MOV that has lost its index',
    )
    .option('--json', 'print one JSON object')
    .action(async (file, out, options) => {
      await repair(file, out, options);
    });

  program
    .command('remux')
    .description(
      'Put a recording into another container: every packet as it is, with the names of its tracks. MP4 and MOV have their index in front.',
    )
    .argument('<in>', 'the recording')
    .argument('<out>', 'the new file: .mkv, .mp4 or .mov')
    .option('--json', 'print one JSON object')
    .action(async (file, out, options) => {
      await rewrap(file, out, options);
    });

  program
    .command('extract')
    .description(
      'Write each audio track of a recording into a file of its own: named, all of one length, side by side from the start.',
    )
    .argument('<file>', 'the recording')
    .requiredOption('--out <folder>', 'write the tracks into this folder')
    .addOption(new Option('--format <format>', 'what to write').choices(['wav', 'flac']).default('wav'))
    .option('--track <track>', 'only this track, counted from 1; may be repeated', trackNumbers)
    .option('--json', 'print one JSON object')
    .action(async (file, options) => {
      await extract(file, options);
    });

  program
    .command('upload')
    .description(
      'Write a video for an upload: the picture as it is, the sound of one track or a mix, at a loudness; checked again as it will be heard. Exit code 3 when it is not clean, 4 when that cannot be tested; it is then not written.',
    )
    .argument('<file>', 'the recording')
    .requiredOption('--out <file.mp4>', 'the video to write: .mp4, .mov or .mkv')
    .option(
      '--track <track>',
      'the track to use, counted from 1; give it several times for a mix, in which voices stay clear of game and music, by the names of the tracks',
      trackNumbers,
    )
    .option('--as-recorded', 'mix several tracks at the levels that they were recorded at')
    .option(
      '--setup <setup>',
      'take the track that a setup means for the upload, and look for what it does not allow',
    )
    .option('--lufs <lufs>', 'how loud it is to be', figureBetween(-40, -5), -14)
    .option('--peak <dbtp>', 'the highest true peak', figureBetween(-20, 0), -1)
    .option('--from <seconds>', 'begin here, or at the key frame before', figureBetween(0, 1e6))
    .option('--to <seconds>', 'end here', figureBetween(0, 1e6))
    .option('--fade <seconds>', 'fade the sound at both ends', figureBetween(0, 60))
    .option('--forbid <track>', 'a track that must not be in it; may be repeated', trackNumbers)
    .option(
      '--reference <file>',
      'a sound that must not be in it, or a folder of them; may be repeated',
      listed,
    )
    .option('--even-if-not-clean', 'write it although something is in it that must not be')
    .option('--even-if-not-testable', 'write it although it could not be checked')
    .option('--media-anywhere', 'follow links of recordings out of the setup file’s folder')
    .option('--json', 'print one JSON object')
    .action(async (file, options) => {
      const verdict = await upload(file, options);
      code = verdict === 'not clean' ? 3 : verdict === 'not testable' ? 4 : 0;
    });

  program
    .command('handoff')
    .description(
      'Write what an editor needs of a recording into a folder: its tracks, a timeline (OpenTimelineIO) with the clean ones on, chapters, a list of records that were heard, and the proof; with --video also the video for the upload. Of many recordings, each gets a folder of its own in it; what is there already stays. Exit code 3 when the video is not clean, 4 when that cannot be tested; it is then not written.',
    )
    .argument('<files...>', 'the recording; or several, or folders of them')
    .requiredOption('--out <folder>', 'an empty or a new folder')
    .addOption(
      new Option('--format <format>', 'how tracks are written').choices(['wav', 'flac']).default('wav'),
    )
    .option(
      '--video',
      'write the video for the upload, too: of the clean track that is meant for it, else a mix of what may go out',
    )
    .option('--lufs <lufs>', 'how loud the video is to be', figureBetween(-40, -5), -14)
    .option('--setup <setup>', 'look for what a setup does not allow')
    .option('--forbid <track>', 'a track that must not be in others; may be repeated', trackNumbers)
    .option(
      '--reference <file>',
      'a sound that must not be in any, or a folder of them; may be repeated',
      listed,
    )
    .option('--even-if-not-clean', 'write the video although something is in it that must not be')
    .option('--even-if-not-testable', 'write the video although it could not be checked')
    .option('--media-anywhere', 'follow links of recordings out of the setup file’s folder')
    .option('--json', 'print one JSON object')
    .action(async (files, options) => {
      const outcome = await handoff(files, options);
      code = outcome === 'failed' ? 1 : outcome === 'not clean' ? 3 : outcome === 'not testable' ? 4 : 0;
    });

  program
    .command('rescue')
    .description(
      'Take a sound out of a track by means of the sound alone, and check what is left. Exit code 3 when it is not clean, 4 when that cannot be tested.',
    )
    .argument('<file>', 'the recording')
    .requiredOption('--track <number>', 'the track to clean, counted from 1', wholeNumber)
    .requiredOption('--reference <sound>', 'the sound alone: a file, or the number of a track')
    .requiredOption('--out <file.wav>', 'the new track')
    .option('--json', 'print one JSON object')
    .action(async (file, options) => {
      const verdict = await rescue(file, options);
      code = verdict === 'clean' ? 0 : verdict === 'not clean' ? 3 : 4;
    });

  program
    .command('join')
    .description(
      'Join a picture with recordings that were made beside it on other devices: each is laid where it is heard in the picture’s sound, its clock’s drift taken out, and written as a track of its own.',
    )
    .argument('<picture>', 'the recording with the picture and a finished mix')
    .argument('<tracks...>', 'the other recordings')
    .requiredOption('--out <file.mkv>', 'the new file')
    .option('--track <number>', 'the track of the picture that the others are heard in', wholeNumber, 1)
    .option('--json', 'print one JSON object')
    .action(async (picture, tracks, options) => {
      await join(picture, tracks, options);
    });

  program
    .command('sound')
    .description(
      'Write a test sound for each source of a setup, or read a recording in which they were played: what arrives in the real room, beside what its setup says. Exit code 3 when the room differs, 4 when no test sound was heard.',
    )
    .argument('<setup>', 'a setup file (.json)')
    .option('--out <folder>', 'write the test sounds into this folder')
    .option('--read <file>', 'read this recording of them')
    .option('--json', 'print one JSON object')
    .action(async (file, options) => {
      if ((options.out === undefined) === (options.read === undefined))
        throw new Error('say --out to write the test sounds, or --read to read a recording of them.');
      if (options.out !== undefined) await writeTestSounds(file, options);
      else code = await readRecording(file, options);
    });

  program
    .command('serve')
    .description('Start Northfen on this machine and answer in the browser until it is stopped (Ctrl C).')
    .option('--demo', 'make the demo’s recordings and setups where they are missing')
    .option('--port <number>', 'the port to answer on; 4780 when left out')
    .option('--data <folder>', 'the data folder; it must be empty, new, or Northfen’s own')
    .option('--media <folder>', 'the folder of your recordings, to be checked; they are only read')
    .option('--open', 'open it in the browser')
    .action(async (options) => {
      code = await serve(options);
    });

  try {
    await program.parseAsync(args, { from: 'user' });
    return code;
  } catch (error) {
    if (error instanceof CommanderError) return error.exitCode === 0 ? 0 : 2;
    const isStopped = error instanceof Error && error.name === 'AbortError';
    const message = error instanceof Error ? error.message : String(error);
    process.stderr.write(`northfen: ${isStopped ? 'stopped; nothing half done is left.' : message}\n`);
    if (error instanceof SetupFileError && error.problems.length > 3) {
      for (const { field, rule } of error.problems.slice(3)) process.stderr.write(`  ${field}: ${rule}\n`);
      const more = error.count - error.problems.length;
      if (more > 0) process.stderr.write(`  and ${more} more\n`);
    }
    return 1;
  }
}

/** Gathers what is given again and again. */
function listed(text: string, before: string[] = []): string[] {
  return [...before, text];
}

function trackNumbers(text: string, before: number[] = []): number[] {
  return [...before, wholeNumber(text)];
}

function figureBetween(least: number, most: number): (text: string) => number {
  return (text) => {
    const value = Number(text);
    if (text.trim() === '' || !Number.isFinite(value) || value < least || value > most)
      throw new InvalidArgumentError(`must be a number from ${least} to ${most}.`);
    return value;
  };
}

function wholeNumber(text: string): number {
  const value = Number(text);
  if (!Number.isInteger(value) || value < 1)
    throw new InvalidArgumentError('must be a whole number from 1 up.');
  return value;
}
