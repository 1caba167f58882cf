import { afterAll, expect, test, vi } from 'vitest';

const languages = ['en-US'];
vi.stubGlobal('navigator', { languages });
const { setZone, showAmount, showClock, showDay, showMoney, showNum, showShare, showSpan, showTime, showVolume, showWalk } =
  await import('./format');
afterAll(() => vi.unstubAllGlobals());

test('money carries its currency, and as many places as that has (ISO 4217)', () => {
  expect(showMoney(123456, 'GBP')).toBe('£1,234.56');
  expect(showMoney(123456, 'JPY')).toBe('¥123,456');
  expect(showMoney(1234567, 'KWD').replace(/\s/, ' ')).toBe('KWD 1,234.567');
  expect(showMoney(-5, 'EUR')).toBe('-€0.05');
  expect(showMoney(5, '')).toBe('');
  expect(showAmount(123456, 'JPY')).toBe('123,456');
  expect(showAmount(123456, 'USD')).toBe('1,234.56');
});

test('days, numbers and shares are written as where somebody is', () => {
  expect(showDay('2026-12-01')).toBe('Tue Dec 1');
  expect(showNum(1234567)).toBe('1,234,567');
  expect(showShare(2345)).toBe('23.5%');
});

test('times are written in the time zone of the firm, or of the warehouse that is named', () => {
  setZone('Europe/London');
  const at = '2026-07-01T14:32:00Z';
  expect(showTime(at).replace(/\s/g, ' ')).toBe('Wed Jul 1 3:32 PM');
  expect(showClock(Date.parse(at), 'Asia/Tokyo').replace(/\s/g, ' ')).toBe('11:32 PM');
  setZone(undefined);
});

test('how far, how long, how much room', () => {
  expect([showWalk(0), showWalk(18_049), showWalk(99_999), showWalk(240_000)]).toEqual(['0 m', '180 m', '1,000 m', '2.4 km']);
  expect([showSpan(0), showSpan(1), showSpan(840), showSpan(3600), showSpan(7261)]).toEqual([
    '0 min',
    '1 min',
    '14 min',
    '1 h 0 min',
    '2 h 2 min',
  ]);
  expect([showVolume(0), showVolume(1250), showVolume(180_000), showVolume(12_345_678)]).toEqual([
    '0 l',
    '1.3 l',
    '0.18 m³',
    '12.35 m³',
  ]);
});
