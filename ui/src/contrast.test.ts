import { readFileSync } from 'node:fs';
import { describe, expect, test } from 'vitest';

const css = readFileSync(new URL('./style.css', import.meta.url), 'utf8');

/** The colours of a theme, by name without the dashes. */
function tokens(theme: string): Record<string, string> {
  const out: Record<string, string> = {};
  for (const block of [
    css.split(`name: '${theme}';`)[1]?.split('}')[0],
    css.split(`[data-theme='${theme}'] {`)[1]?.split('}')[0],
    css.split('@theme {')[1]?.split('}')[0],
  ]) {
    for (const [, name, value] of block?.matchAll(/--([\w-]+): ([^;]+);/g) ?? []) if (name && value) out[name] = value;
  }
  return out;
}

function colour(of: Record<string, string>, name: string): string {
  const value = of[name] ?? '';
  const other = /^var\(--([\w-]+)\)$/.exec(value)?.[1];
  if (other) return colour(of, other);
  if (!/^#[0-9a-f]{6}$/.test(value)) throw new Error(`--${name} is ${value || 'missing'}`);
  return value;
}

/** Relative luminance and contrast as WCAG 2.2 defines them. */
function luminance(hex: string): number {
  const [r, g, b] = [1, 3, 5].map((i) => {
    const c = parseInt(hex.slice(i, i + 2), 16) / 255;
    return c <= 0.04045 ? c / 12.92 : ((c + 0.055) / 1.055) ** 2.4;
  }) as [number, number, number];
  return 0.2126 * r + 0.7152 * g + 0.0722 * b;
}

function contrast(a: string, b: string): number {
  const [low, high] = [luminance(a), luminance(b)].sort((x, y) => x - y) as [number, number];
  return (high + 0.05) / (low + 0.05);
}

test('contrast is what WCAG says of its own examples', () => {
  expect(contrast('#000000', '#ffffff')).toBeCloseTo(21, 5);
  expect(contrast('#777777', '#ffffff')).toBeCloseTo(4.48, 2); // common practice, from memory: the lightest grey that just fails
});

const grounds = ['color-paper', 'color-card', 'color-focus-ground'];
const texts = ['color-ink', 'color-mute', 'color-late', 'color-focus'];
const pairs = [
  ['color-primary-content', 'color-primary'],
  ['color-neutral-content', 'color-neutral'],
  ['color-card', 'color-late'], // the count on the strip
];
const marks = ['edge', 'st-edge', 'color-focus', 'color-late'];

describe.each(['day', 'night'])('in the theme %s', (theme) => {
  const of = tokens(theme);
  const between = (a: string, b: string) => contrast(colour(of, a), colour(of, b));

  test.each(texts.flatMap((t) => grounds.map((g) => [t, g])).concat(pairs))('text: %s on %s is at least 4.5', (t, g) => {
    expect(between(t ?? '', g ?? '')).toBeGreaterThanOrEqual(4.5);
  });

  test.each(marks.flatMap((m) => grounds.map((g) => [m, g])))('marks and borders: %s on %s is at least 3', (m, g) => {
    expect(between(m ?? '', g ?? '')).toBeGreaterThanOrEqual(3);
  });
});
