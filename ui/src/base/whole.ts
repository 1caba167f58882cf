import { t } from '@lingui/core/macro';
import { locale } from './locale';

/** The greatest number of units that can be typed. */
export const mostUnits = 999_999_999;

const group = new Intl.NumberFormat(locale).formatToParts(1_234_567).find((p) => p.type === 'group')?.value ?? ',';
const shown = (n: number) => new Intl.NumberFormat(locale).format(n);

/**
 * Reads a whole number as it is typed: nothing is 0, and thousands may be parted as the locale does it. What is none is refused in
 * words, and so is what exceeds the most; it is never turned into another number.
 */
export function readWhole(
  text: string,
  most = mostUnits,
  parted = group,
): { n: number; why?: undefined } | { n?: undefined; why: string } {
  const plain = text.replace(/[\s\u00a0\u202f]/g, '');
  if (plain === '') return { n: 0 };
  const sign = parted.trim() === '' ? '' : parted.replace(/[.*+?^${}()|[\]\\]/g, '\\$&');
  const whole = new RegExp(sign ? `^(\\d+|\\d{1,3}(${sign}\\d{3})+)$` : '^\\d+$').test(plain);
  if (!whole) {
    return {
      why: /^\d*[.,]\d+$/.test(plain) ? t`${plain} is not whole: type whole units.` : t`“${text.trim()}” is not a whole number.`,
    };
  }
  const n = Number(plain.replace(/\D/g, ''));
  return n > most ? { why: t`At most ${shown(most)}.` } : { n };
}
