/** Prose in which no line ends between a number and its unit: a no-break space stands there. */
export const unbroken = (text: string): string =>
  text.replace(/(\d) (?=%|(?:m|s|ms|min|K|k?Hz|fps|stops?|bits?|[kMG]B|Mbit)(?![A-Za-z]))/g, '$1\u00a0');
