/** One key press: the character or the name of the key, with what is held. */
export interface Stroke {
  key: string;
  mod: boolean;
  alt: boolean;
  /** Absent where the character itself may need it, as “?” does. */
  shift?: boolean;
}

/** Keys that do the same, each a sequence of strokes. */
export type Sequence = Stroke[];

const names: Record<string, string> = { esc: 'escape', space: ' ' };

function strokeOf(text: string): Stroke {
  const parts = text.split('+');
  const key = (parts.pop() ?? '').toLowerCase();
  const name = names[key] ?? key;
  // On some keyboards a digit or a sign needs Shift, so only letters differ by it.
  const symbol = name.length === 1 && name !== ' ' && name.toUpperCase() === name;
  return {
    key: name,
    mod: parts.includes('mod'),
    alt: parts.includes('alt'),
    shift: symbol ? undefined : parts.includes('shift'),
  };
}

/** Reads keys as they are written in the code: “ArrowDown, j”, “mod+k”, “shift+a”, “g t”. */
export function parse(keys: string): Sequence[] {
  return keys.split(',').map((one) => one.trim().split(/\s+/).map(strokeOf));
}

/** The stroke of a key press, by its character: where a key lies on the keyboard does not matter. */
export function pressed(e: KeyboardEvent): Stroke {
  // What AltGr is held for is a character of its own, though the browser also says that Ctrl and Alt are held.
  const altGr = e.getModifierState('AltGraph');
  return { key: e.key.toLowerCase(), mod: !altGr && (e.ctrlKey || e.metaKey), alt: !altGr && e.altKey, shift: e.shiftKey };
}

/** Whether the stroke that is bound is the one that was pressed, or is bound itself. */
export function same(bound: Stroke, other: Stroke): boolean {
  if (bound.key !== other.key || bound.mod !== other.mod || bound.alt !== other.alt) return false;
  return bound.shift === undefined || other.shift === undefined || bound.shift === other.shift;
}

const shown: Record<string, string> = {
  arrowdown: '↓',
  arrowup: '↑',
  arrowleft: '←',
  arrowright: '→',
  ' ': 'Space',
  enter: 'Enter',
  escape: 'Esc',
};

const title = (key: string) => (key.length === 1 && key !== ' ' ? key.toUpperCase() : (shown[key] ?? key));

/** A sequence as a person reads it: “Ctrl K”, “⇧ A”, “G then T”. */
export function show(keys: Sequence): string {
  return keys.map((s) => (s.mod ? 'Ctrl ' : '') + (s.alt ? 'Alt ' : '') + (s.shift ? '⇧ ' : '') + title(s.key)).join(' then ');
}

/** Single strokes in the form of aria-keyshortcuts, which has none for sequences. */
export function ariaOf(all: Sequence[]): string | undefined {
  const key = (k: string) => (k === ' ' ? 'Space' : k.startsWith('arrow') ? 'Arrow' + capital(k.slice(5)) : capital(k));
  const out = all.flatMap((s) => {
    const [one, more] = s;
    return one && !more
      ? [(one.mod ? 'Control+' : '') + (one.alt ? 'Alt+' : '') + (one.shift ? 'Shift+' : '') + key(one.key)]
      : [];
  });
  return out.length ? out.join(' ') : undefined;
}

const capital = (word: string) => word.charAt(0).toUpperCase() + word.slice(1);

const roles = ['button', 'link', 'menuitem', 'menuitemradio', 'menuitemcheckbox', 'option', 'tab', 'switch', 'checkbox', 'radio'];
const pressable = ['button', 'a[href]', 'summary', 'input[type=checkbox]', 'input[type=radio]', 'input[type=file]']
  .concat(roles.map((r) => `[role=${r}]`))
  .join(',');
const moved = ['select', 'input[type=radio]'].concat(
  ['menu', 'menubar', 'listbox', 'tablist', 'radiogroup', 'slider', 'spinbutton', 'tree'].map((r) => `[role=${r}]`),
);
const written =
  'input:not([type=checkbox],[type=radio],[type=button],[type=submit],[type=file]),textarea,select,[contenteditable=true]';

/**
 * Whether a key belongs to the element in focus: what is written to a field, and the keys by which a button, link, choice or menu is
 * pressed and moved. A quantity takes only digits, so letters are free there.
 */
export function belongsTo(el: Element, s: Stroke): boolean {
  if (s.mod || s.alt) return false;
  if (el.closest(written)) return !(el.classList.contains('qty') && /^[a-z]$/.test(s.key));
  if ((s.key === 'enter' || s.key === ' ') && el.closest(pressable)) return true;
  return s.key.startsWith('arrow') && el.closest(moved.join(',')) !== null;
}

/** Whether something is written into the element. */
export const isField = (el: Element) => el.closest(written) !== null;
