/**
 * What stands on a carton as a GS1 element string: the trade item's number and its lot, if they are among what was scanned. Scanners send
 * the separator as GS (ASCII 29), or the digits in brackets as they are printed; some begin with the symbology, such as ]C1.
 *
 * Source: GS1 General Specifications, application identifiers 01 (GTIN, 14 digits), 10 (batch or lot, up to 20 characters), 11, 13, 15 and
 * 17 (dates, 6 digits), 21 (serial number, up to 20 characters), 30 and 37 (counts, up to 8 digits).
 */
export function lotOf(text: string): { item: string; lot: string } | undefined {
  const found = /^\]|^\(\d{2}\)|^01\d{14}/.test(text) ? elements(text.replace(/^\][A-Za-z]\d/, '')) : undefined;
  const lot = found?.get('10');
  const item = found?.get('01');
  return found && (lot || item) ? { item: item ? bare(item) : '', lot: lot ?? '' } : undefined;
}

/** How long the values of an application identifier are: exactly so many characters, or at most. */
const lengths: Record<string, [number, boolean]> = {
  '01': [14, true],
  '02': [14, true],
  '10': [20, false],
  '11': [6, true],
  '13': [6, true],
  '15': [6, true],
  '17': [6, true],
  '21': [20, false],
  '30': [8, false],
  '37': [8, false],
};

/** The separator behind a value that may be shorter than its longest. */
const GS = String.fromCharCode(29);

function elements(text: string): Map<string, string> | undefined {
  const out = new Map<string, string>();
  let rest = text;
  while (rest !== '') {
    const head = /^\((\d{2})\)|^(\d{2})/.exec(rest);
    const id = head?.[1] ?? head?.[2];
    const length = id === undefined ? undefined : lengths[id];
    if (!head || id === undefined || !length) return undefined;
    rest = rest.slice(head[0].length);
    const end = [...rest].findIndex((c) => c === GS || c === '(');
    const value = rest.slice(0, length[1] ? length[0] : end < 0 ? rest.length : end);
    if (value === '' || value.length > length[0] || (length[1] && !/^\d+$/.test(value))) return undefined;
    if (length[1] && value.length < length[0]) return undefined;
    out.set(id, value);
    rest = rest.slice(value.length);
    if (rest.startsWith(GS)) rest = rest.slice(1);
  }
  return out;
}

/** A trade item's number without the zeros before it: one of 8, 12 or 13 digits is filled up to 14. */
const bare = (gtin: string) => gtin.replace(/^0+(?=\d)/, '');

/** Whether what was scanned is an item: its number, its barcode, or a carton's code with that. */
export function bears(x: { sku: string; barcode?: string }, scanned: string): boolean {
  const code = scanned.trim().toLowerCase();
  if (code === '') return false;
  if (code === x.sku.toLowerCase() || code === x.barcode?.toLowerCase()) return true;
  const item = lotOf(scanned.trim())?.item;
  return item !== undefined && item !== '' && x.barcode !== undefined && bare(x.barcode) === item;
}
