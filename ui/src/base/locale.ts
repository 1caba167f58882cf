/**
 * The language of the interface is English; numbers, money and days are written as in the region of whoever uses it: a browser set to
 * German in Switzerland reads English in the Swiss way.
 */
export function localeOf(languages: readonly string[]): string {
  const region = languages[0] === undefined ? undefined : regionOf(languages[0]);
  return region ? `en-${region}` : 'en-GB';
}

function regionOf(language: string): string | undefined {
  try {
    return new Intl.Locale(language).maximize().region;
  } catch {
    return undefined; // it is none
  }
}

export const locale = localeOf(typeof navigator === 'undefined' ? [] : navigator.languages);
