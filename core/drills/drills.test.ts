import { describe, expect, test } from '@jest/globals';
import { regattaMadeRight } from '../demo/setups.ts';
import { twoMachinesMadeRight } from '../demo/twoMachines.ts';
import { applyEdit } from '../setup/edits.ts';
import { countAt, DRILL_KINDS, drillsOf, runDrill, safeguardsFor } from './drills.ts';

const TODAY = '2026-05-01';
const setup = twoMachinesMadeRight();
const drill = (id: string) => {
  const found = drillsOf(setup).find((one) => one.id === id);
  if (!found) throw new Error(`no drill ${id}`);
  return found;
};
const codes = (id: string) => runDrill(setup, drill(id), TODAY).findings.map(({ code }) => code);

describe('drills', () => {
  test('change nothing, and there is one of every kind for the two machines', () => {
    const before = JSON.stringify(setup);
    const kinds = new Set(drillsOf(setup).map(({ kind }) => kind));
    for (const one of drillsOf(setup)) runDrill(setup, one, TODAY);
    expect(JSON.stringify(setup)).toBe(before);
    expect([...kinds].sort()).toEqual([...DRILL_KINDS].sort());
  });

  test('are counted by destination: every change once, as lost, gained or moved', () => {
    for (const one of drillsOf(setup)) {
      const result = runDrill(setup, one, TODAY);
      const places = new Set(result.changes.map(({ destination }) => destination));
      const counted = [...places].map((place) => countAt(result, place));
      const sum = counted.reduce((all, { lost, gained, moved }) => all + lost + gained + moved, 0);
      expect(sum).toBe(result.changes.length);
    }
    const unplugged = runDrill(setup, drill('unplug.loft.capture'), TODAY);
    expect(countAt(unplugged, 'live')).toEqual({ lost: 1, gained: 0, moved: 0 });
    expect(countAt(unplugged, 'headphones')).toEqual({ lost: 0, gained: 0, moved: 0 });
  });

  test('an app that restarts and falls to the default is heard in the wrong places', () => {
    const { changes } = runDrill(setup, drill('restart.bosun'), TODAY);
    expect(changes.some(({ source, afterDb }) => source === 'bosun' && afterDb !== null)).toBe(true);
    expect(codes('restart.bosun')).toContain('on-default');
  });

  test('a new game is wanted wherever the game was, and takes its place', () => {
    const asItIs = runDrill(setup, drill('new-game.boathouse'), TODAY);
    expect(asItIs.findings.map(({ code, source }) => [code, source])).toEqual([['on-default', 'new-game']]);
    const elsewhere = applyEdit(setup, {
      edit: 'updateMachine',
      id: 'boathouse',
      values: { defaultOutput: 'boathouse.chat-out' },
    });
    const found = drillsOf(elsewhere).find(({ id }) => id === 'new-game.boathouse');
    const missing =
      found && runDrill(elsewhere, found, TODAY).findings.filter(({ code }) => code === 'missing');
    expect(missing?.map(({ source, destination }) => `${source} ${destination}`)).toContain('new-game live');
  });

  test('unplugging the capture takes the game from the viewers', () => {
    const { changes } = runDrill(setup, drill('unplug.loft.capture'), TODAY);
    expect(changes).toContainEqual({
      ...{ source: 'game', destination: 'live', scene: null },
      ...{ beforeDb: -10, afterDb: null },
    });
    expect(codes('unplug.loft.capture')).toContain('missing');
  });

  test('music in the call leaks to live and VOD, where the voices go', () => {
    expect(codes('call-music')).toEqual(expect.arrayContaining(['leak.live', 'leak.vod']));
  });

  test('a crossed chat sends the friends back to themselves, or takes their voices away', () => {
    expect(codes('crossed-chat').some((code) => code === 'echo.party' || code === 'missing')).toBe(true);
  });

  test('listening in on a mix of a desk that re-routes takes it from the audience', () => {
    expect(codes('listen.sluicebox.loft-feed')).toContain('missing');
  });

  test('a scene that is complete changes nothing', () => {
    expect(runDrill(setup, drill('scene.race'), TODAY)).toMatchObject({ changes: [], findings: [] });
  });

  test('a safeguard leaves the drill with fewer findings, and raises no stop', () => {
    const one = drill('restart.reedbox');
    const before = runDrill(setup, one, TODAY).findings.length;
    const [safeguard] = safeguardsFor(setup, one, TODAY);
    expect(safeguard).toBeDefined();
    const safe = applyEdit(setup, safeguard.edit);
    expect(runDrill(safe, one, TODAY).findings.length).toBeLessThan(before);
  });

  test('what is wrong in a scene is mended in the setup, and then the scene passes', () => {
    const [feed] = setup.pickups.filter(({ name }) => name === 'Desk feed');
    const gap = applyEdit(setup, { edit: 'updatePickup', id: feed.id, values: { scenes: ['race'] } });
    const one = drill('scene.break');
    expect(runDrill(setup, one, TODAY).findings).toEqual([]);
    expect(runDrill(gap, one, TODAY).findings.map(({ code }) => code)).toContain('scene-gap');
    const [remedy] = safeguardsFor(gap, one, TODAY);
    const mended = applyEdit(gap, remedy.edit);
    expect(runDrill(mended, one, TODAY).findings).toEqual([]);
  });

  test('without headphones the records are in the voice, and with it in the VOD', () => {
    const one = drill('loudspeakers.headphones');
    const { findings } = runDrill(setup, one, TODAY);
    expect(findings.map(({ code }) => code)).toContain('open-loudspeakers');
    expect(setup.air).toBeUndefined();
  });

  test('a setup without wiring has just the call and the headphones to drill', () => {
    const kinds = drillsOf(regattaMadeRight()).map(({ kind }) => kind);
    expect(kinds).toEqual(['music in the call', 'headphones off']);
  });
});
