/** Inserts no-break spaces between numbers and units. */
export const unbroken = (text: string): string =>
  text.replace(/(\d) (?=%|(?:m|s|ms|min|K|k?Hz|fps|stops?|bits?|[kMG]B|Mbit)(?![A-Za-z]))/g, '$1\u00a0');
