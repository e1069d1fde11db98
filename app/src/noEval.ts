import { config } from 'zod';

// The server's content security policy forbids code made of text, and a browser reports who as much as tries: to be imported before
// any schema is made.
config({ jitless: true });
