import { SAME_ARRIVAL, type SideArrival } from './cells.ts';
import type { ChannelReader } from './channel.ts';
import { around } from './periods.ts';
import type { Players } from './players.ts';
import type { ReadChannel } from './readChannel.ts';
import type { Stretch } from './stretch.ts';

const { abs } = Math;

/** All arrivals of a player on the channels of a track; null where it is not looked for. */
export function arrivalsOf(
  reader: ChannelReader,
  { codes, stretches }: Players,
  player: number,
  channels: (ReadChannel | null)[],
): SideArrival[] {
  const own = codes.flatMap(({ source, side }, code) => (source === player ? [{ code, side }] : []));
  const found = channels.flatMap((channel, index) =>
    (channel?.arrivals ?? []).flatMap((arrival): SideArrival[] => {
      const side = own.find(({ code }) => code === arrival.code)?.side;
      return side === undefined ? [] : [{ ...arrival, channel: index, side, player }];
    }),
  );
  const stretch = stretches[player];
  return stretch ? [...found, ...fainter(reader, channels, player, own, found, stretch)] : found;
}

/** The sides of an arrival that did not stand out by themselves, at the time of those that did. */
function fainter(
  reader: ChannelReader,
  channels: (ReadChannel | null)[],
  player: number,
  own: { code: number; side: number }[],
  found: SideArrival[],
  stretch: Stretch,
): SideArrival[] {
  const more: SideArrival[] = [];
  for (const { lag } of found)
    for (const [channel, on] of channels.entries())
      for (const { code, side } of own) {
        const isKnown = [...found, ...more].some(
          (one) => one.channel === channel && one.code === code && abs(around(one.lag - lag)) <= SAME_ARRIVAL,
        );
        if (isKnown || !on) continue;
        const faint = on.faint.find((one) => one.code === code && abs(around(one.lag - lag)) <= SAME_ARRIVAL);
        const gain = faint?.gain ?? reader.at(on.restFor(player), code, lag, stretch);
        if (gain !== null) more.push({ code, lag, gain, channel, side, player, stretch });
      }
  return more;
}
