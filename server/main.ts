import { runServer } from './runServer.ts';

process.exitCode = await runServer({ demo: process.env.NORTHFEN_DEMO !== '0' });
