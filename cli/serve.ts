import open from 'open';
import { runServer } from '../server/runServer.ts';

/** Starts the server; the process goes on until it is told to end. @returns 1 when it could not start */
export async function serve(options: {
  demo?: boolean;
  port?: string;
  data?: string;
  media?: string;
  open?: boolean;
}): Promise<0 | 1> {
  return runServer({
    demo: options.demo ?? false,
    port: options.port,
    dataDir: options.data,
    mediaDir: options.media,
    onReady: (address) => {
      if (options.open) void open(address).catch(() => console.log(`Open ${address} in your browser.`));
    },
  });
}
