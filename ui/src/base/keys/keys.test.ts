// @vitest-environment happy-dom
import { beforeEach, describe, expect, test } from 'vitest';
import { ariaOf, belongsTo, parse, pressed, show } from './binding';
import { bindingOf, Dispatcher, pageLayer } from './dispatcher';

let done: string[] = [];
let refused: string[] = [];
let now = 0;
let d: Dispatcher;

beforeEach(() => {
  done = [];
  refused = [];
  now = 0;
  document.body.innerHTML = '';
  d = new Dispatcher(
    (m) => refused.push(m),
    () => now,
  );
});

const on = (keys: string, options: Partial<{ layer: string; typing: boolean; repeat: boolean }> = {}) =>
  d.add(
    bindingOf(keys, {
      does: keys,
      group: '',
      layer: pageLayer,
      typing: false,
      repeat: false,
      run: () => done.push(keys),
      ...options,
    }),
  );

/** Presses a key on an element; returns whether the browser was told to leave it alone. */
function press(
  key: string,
  { altGr = false, ...held }: KeyboardEventInit & { altGr?: boolean } = {},
  el: Element = document.body,
) {
  const e = new KeyboardEvent('keydown', { key, bubbles: true, cancelable: true, ...held });
  Object.defineProperty(e, 'getModifierState', { value: (name: string) => name === 'AltGraph' && altGr });
  el.addEventListener('keydown', (x) => d.handle(x as KeyboardEvent), { once: true });
  el.dispatchEvent(e);
  return e.defaultPrevented;
}

const put = (html: string, what = '*') => {
  document.body.innerHTML = html;
  const el = document.body.querySelector(what);
  if (!el) throw new Error(html);
  return el;
};

describe('by character', () => {
  test('a letter, whatever key it lies on', () => {
    on('a');
    press('a', { code: 'KeyQ' }); // AZERTY
    press('q', { code: 'KeyA' });
    expect(done).toEqual(['a']);
  });

  test('a sign or a digit may need Shift, or AltGr', () => {
    on('?');
    on('/');
    on('[');
    on('1');
    press('?', { shiftKey: true });
    press('/', { shiftKey: true, code: 'Period' });
    press('[', { ctrlKey: true, altKey: true, altGr: true });
    press('1', { shiftKey: true, code: 'Digit1' });
    expect(done).toEqual(['?', '/', '[', '1']);
  });

  test('a letter with Shift is another one; Caps Lock makes none', () => {
    on('a');
    on('shift+a');
    press('A', { shiftKey: true });
    press('A');
    press('a');
    expect(done).toEqual(['shift+a', 'a', 'a']);
  });

  test('nothing while a modifier of the system is held', () => {
    on('a');
    on('mod+k');
    press('a', { ctrlKey: true });
    press('a', { metaKey: true });
    press('a', { altKey: true });
    press('k', { ctrlKey: true });
    press('k', { metaKey: true });
    expect(done).toEqual(['mod+k', 'mod+k']);
  });

  test('not while a character is being composed', () => {
    on('a');
    press('a', { isComposing: true });
    expect(done).toEqual([]);
  });
});

describe('sequences', () => {
  test('come before the letter alone', () => {
    on('g o');
    on('o');
    press('g');
    press('o');
    expect(done).toEqual(['g o']);
    press('o');
    expect(done).toEqual(['g o', 'o']);
  });

  test('the second key never does what it does alone, even if nothing begins so', () => {
    on('g o');
    on('d');
    press('g');
    expect(press('d')).toBe(true);
    expect(done).toEqual([]);
    press('d');
    expect(done).toEqual(['d']);
  });

  test('are forgotten after a while', () => {
    on('g o');
    on('o');
    press('g');
    now = 2000;
    press('o');
    expect(done).toEqual(['o']);
  });

  test('Shift alone does not end them', () => {
    on('g ?');
    press('g');
    press('Shift');
    press('?', { shiftKey: true });
    expect(done).toEqual(['g ?']);
  });

  test('do not begin in a field', () => {
    on('g o');
    const field = put('<input>');
    expect(press('g', {}, field)).toBe(false);
    press('o', {}, field);
    expect(done).toEqual([]);
  });
});

describe('what belongs to the element in focus', () => {
  test.each([
    '<button>Quote</button>',
    '<a href="/orders">Orders</a>',
    '<details><summary>More</summary></details>',
    '<input type="radio">',
    '<input type="checkbox">',
    '<div role="menuitem" tabindex="0">Undo</div>',
    '<div role="option" tabindex="0">HL</div>',
    '<div role="tab" tabindex="0">Lines</div>',
  ])('Enter and Space press %s, and do nothing else', (html) => {
    on('enter');
    on('space');
    const el = put(html, html.includes('summary') ? 'summary' : '*');
    expect(press('Enter', {}, el)).toBe(false);
    expect(press(' ', {}, el)).toBe(false);
    expect(done).toEqual([]);
  });

  test('other keys of a button are those of the page', () => {
    on('a');
    on('ArrowDown');
    const el = put('<button>Quote</button>');
    press('a', {}, el);
    press('ArrowDown', {}, el);
    expect(done).toEqual(['a', 'ArrowDown']);
  });

  test.each([
    '<input>',
    '<textarea></textarea>',
    '<select></select>',
    '<div contenteditable="true"></div>',
    '<input type="search">',
  ])('what is written to %s', (html) => {
    on('a');
    on('enter');
    on('mod+enter', { typing: true });
    const el = put(html);
    press('a', {}, el);
    press('Enter', {}, el);
    press('Enter', { ctrlKey: true }, el);
    expect(done).toEqual(['mod+enter']);
  });

  test('letters are free in a quantity, digits and arrows are not', () => {
    on('r');
    on('1');
    on('ArrowDown');
    const el = put('<input class="qty">');
    press('r', {}, el);
    press('1', {}, el);
    press('ArrowDown', {}, el);
    expect(done).toEqual(['r']);
  });

  test('arrows move within a menu, a list and a choice', () => {
    for (const html of [
      '<div role="menu"><div role="menuitem"></div></div>',
      '<ul role="listbox"></ul>',
      '<input type="radio">',
    ]) {
      const el = put(html);
      expect(belongsTo(el, pressed(new KeyboardEvent('keydown', { key: 'ArrowDown' })))).toBe(true);
    }
  });
});

describe('actions', () => {
  test('a key that is held down acts once, but where it moves', () => {
    on('a');
    on('j', { repeat: true });
    press('a');
    expect(press('a', { repeat: true })).toBe(true);
    press('j');
    press('j', { repeat: true });
    expect(done).toEqual(['a', 'j', 'j']);
  });

  test('a dialog has its own keys and no others', () => {
    on('a');
    const close = d.open('dialog');
    on('b', { layer: 'dialog' });
    press('a');
    press('b');
    close();
    press('a');
    press('b');
    expect(done).toEqual(['b', 'a']);
  });

  test('what was taken away does nothing', () => {
    const away = on('a');
    away();
    expect(press('a')).toBe(false);
    expect(done).toEqual([]);
  });
});

describe('two actions with one key', () => {
  test.each([
    ['u', 'u', 'U'],
    ['ArrowDown, j', 'j', 'J'],
    ['g', 'g o', 'G'],
    ['g o', 'g o', 'G then O'],
    ['?', 'shift+?', '?'],
  ])('%s and %s are refused', (a, b, key) => {
    on(a);
    on(b);
    expect(refused).toEqual([`The key ${key} has two actions: “${a}” and “${b}”.`]);
  });

  test.each([
    ['a', 'shift+a'],
    ['a', 'mod+a'],
    ['g o', 'g q'],
    ['g o', 'o'],
  ])('%s and %s are two', (a, b) => {
    on(a);
    on(b);
    expect(refused).toEqual([]);
  });

  test('one after the other is none, and neither is one of a dialog', () => {
    on('a')();
    on('a');
    on('a', { layer: 'dialog' });
    expect(refused).toEqual([]);
  });
});

test('keys are shown as a person reads them', () => {
  expect(
    ['mod+k', 'shift+a', 'g t', 'ArrowDown', 'space', 'esc', 'mod+shift+enter', 'alt+1'].map((k) => parse(k).map(show)[0]),
  ).toEqual(['Ctrl K', '⇧ A', 'G then T', '↓', 'Space', 'Esc', 'Ctrl ⇧ Enter', 'Alt 1']);
});

test('and said to a screen reader', () => {
  expect(ariaOf(parse('shift+a, space'))).toBe('Shift+A Space');
  expect(ariaOf(parse('mod+shift+enter'))).toBe('Control+Shift+Enter');
  expect(ariaOf(parse('ArrowLeft'))).toBe('ArrowLeft');
  expect(ariaOf(parse('g t'))).toBeUndefined();
});
