// Adds up the results of several test runs and prints one line. Usage: summary.mjs RESULT.json … FAILED(0|1)
import { readFileSync } from 'node:fs';

const files = process.argv.slice(2, -1);
let failedBefore = Number(process.argv.at(-1));
let passed = 0;
let failed = 0;
for (const file of files) {
  try {
    const result = JSON.parse(readFileSync(file, 'utf8'));
    passed += result.numPassedTests;
    failed += result.numFailedTests + result.numRuntimeErrorTestSuites;
  } catch {
    failedBefore = 1;
  }
}
if (failed > 0) failedBefore = 0;
console.log(`\n${passed} passed, ${failed + failedBefore} failed`);
process.exitCode = failed + failedBefore ? 1 : 0;
