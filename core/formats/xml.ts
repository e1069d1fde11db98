/** Text as it may stand in an XML attribute or element; what XML cannot hold is left out. */
export const escapeXml = (text: string): string =>
  [...text]
    .filter((c) => c >= ' ' || c === '\t' || c === '\n')
    .join('')
    .replace(/[&<>"']/g, (c) => `&#${c.charCodeAt(0)};`);
