// Compresses the built application once, so that the server need not do it for every visitor: Brotli for browsers that take
// it, which is over secure addresses alone, and gzip for the others.
import { readdirSync, readFileSync, writeFileSync } from 'node:fs';
import { join } from 'node:path';
import { fileURLToPath } from 'node:url';
import { brotliCompressSync, constants, gzipSync } from 'node:zlib';

const folder = fileURLToPath(import.meta.resolve('../app/dist'));
/** What is large. The page itself isn't: an old one beside a new one would be taken for it. */
const KINDS = /\.(js|css|wasm|ttf)$/;
/** Below this nothing is gained. */
const LEAST = 1024;
/** Of Brotli: 11 makes the script a tenth smaller still, in eight seconds in place of half a one. */
const QUALITY = 9;

for (const entry of readdirSync(folder, { recursive: true, withFileTypes: true })) {
  const path = join(entry.parentPath ?? entry.path, entry.name);
  if (!entry.isFile() || !KINDS.test(path)) continue;
  const bytes = readFileSync(path);
  if (bytes.length < LEAST) continue;
  writeFileSync(`${path}.br`, brotliCompressSync(bytes, { params: { [constants.BROTLI_PARAM_QUALITY]: QUALITY } }));
  writeFileSync(`${path}.gz`, gzipSync(bytes, { level: 9 }));
}
