import { readFileSync, readdirSync } from 'node:fs';
import { join } from 'node:path';
import { expect, test } from 'vitest';

const source = readdirSync(import.meta.dirname, { recursive: true, encoding: 'utf8' })
  .filter((f) => f.endsWith('.tsx'))
  .map((f) => [f, readFileSync(join(import.meta.dirname, f), 'utf8')] as const);

test('sizes of type are those of the scale, and colours those of the theme', () => {
  expect(source.length).toBeGreaterThan(60);
  for (const [file, text] of source) {
    expect([file, ...(text.match(/\btext-\[[^\]]*\]/g) ?? [])]).toEqual([file]);
    expect([file, ...(text.match(/\btext-(xs|sm|base|lg|xl|\dxl)\b/g) ?? [])]).toEqual([file]);
    expect([file, ...(text.match(/['"` :]#[0-9a-f]{3,8}\b|\brgba?\(/gi) ?? [])]).toEqual([file]);
  }
});
