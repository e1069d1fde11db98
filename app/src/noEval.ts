import { config } from 'zod';

// The server's content security policy forbids eval, and browsers report even feature tests of it: import this before
// any schema is created.
config({ jitless: true });
