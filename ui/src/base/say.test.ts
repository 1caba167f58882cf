import { expect, test } from 'vitest';
import { messages } from '../locales/server/en.po';
import { inPlace, say, speak, type Said } from './say';

speak(messages);
const codeOf = (...parts: unknown[]) => {
  const wanted = JSON.stringify(parts);
  const code = Object.keys(messages).find((k) => JSON.stringify(messages[k]) === wanted);
  if (!code) throw new Error(`no pattern is ${wanted}`);
  return code;
};
const units = (n: number): Said => ({
  code: codeOf(['0', 'plural', { one: ['#', ' unit'], other: ['#', ' units'] }]),
  text: `${n} in English`,
  params: [{ number: n }],
});

test('a sentence is made of its pattern and what stands in it', () => {
  const released: Said = {
    code: codeOf('Released ', ['0'], ' of ', ['1'], ' on ', ['2'], '.'),
    text: 'in English',
    params: [{ said: units(1234) }, { text: 'SO-1' }, { list: [inPlace('PL-1'), inPlace('PL-2')], between: ', ' }],
  };
  expect(say(released)).toBe('Released 1,234 units of SO-1 on PL-1, PL-2.');
});

test('days, amounts and times are written as the locale writes them', () => {
  const passed = { code: codeOf(['0'], ' has passed.'), text: 'in English', params: [{ day: '2027-03-02' }] };
  expect(say(passed)).toBe('Tue 2 Mar has passed.');
  const most = {
    code: codeOf('An order may be worth at most ', ['0'], '.'),
    text: '',
    params: [{ minor: 123450, currency: 'GBP' }],
  };
  expect(say(most)).toBe('An order may be worth at most £1,234.50.');
  expect(say({ ...most, params: [{ minor: 1234, currency: 'JPY' }] })).toBe('An order may be worth at most JP¥1,234.');
});

test('what no catalogue knows is said as the server says it', () => {
  expect(say({ code: 'nocode', text: 'Something new.', params: [] })).toBe('Something new.');
  expect(say(inPlace('not possible'))).toBe('not possible');
  expect(say(undefined)).toBe('');
});
