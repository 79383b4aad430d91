import { z } from 'zod';

// Imported before everything else: the page's content security policy forbids code that is made from text, which Zod
// would try for the sake of speed as soon as a schema is made.
z.config({ jitless: true });
