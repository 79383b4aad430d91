type Json = Record<string, unknown>;

/**
 * Brings the JSON of an older setup file to the newest version, step by step; what is no setup of an older version is
 * returned as it is, for the schema to judge.
 */
export function migrateSetup(json: Json): Json {
  return json.version === 1 ? wiringAdded(json) : json;
}

/** The same for one part of a setup (a list by its name), as the history of edits keeps them. */
export function migratePart(part: string, value: unknown): unknown {
  return part === 'pickups' && Array.isArray(value) ? value.map(pickupOfVersion2) : value;
}

/** Version 2 has machines, devices, links, mixes and scenes; a pickup may take a device, so `source` became `takes`. */
function wiringAdded(json: Json): Json {
  const { format, version: _, name, recorder, ...rest } = json;
  return {
    format,
    version: 2,
    name,
    recorder,
    machines: [],
    devices: [],
    links: [],
    mixes: [],
    scenes: [],
    ...rest,
    pickups: migratePart('pickups', json.pickups),
  };
}

function pickupOfVersion2(pickup: unknown): unknown {
  if (typeof pickup !== 'object' || pickup === null || !('source' in pickup)) return pickup;
  const { source, ...rest } = pickup as Json;
  return { ...rest, takes: source };
}
