import { belongsTo, isField, parse, pressed, same, show, type Sequence, type Stroke } from './binding';

export interface Binding {
  keys: Sequence[];
  does: string;
  group: string;
  /** The dialog that it is for, or the page. */
  layer: string;
  /** Also while something is written into a field. */
  typing: boolean;
  /** As often as the key repeats while it is held down. */
  repeat: boolean;
  run: (e: KeyboardEvent) => void;
}

export const pageLayer = 'page';

/** For how many milliseconds the first key of a sequence waits for the next one. */
const patience = 1500;

/**
 * Hears every key press of the window and gives it to the one action that has the key. A sequence comes before single keys; what
 * belongs to the element in focus is left to it; while a dialog is open, only its own keys do something.
 */
export class Dispatcher {
  private bindings: readonly Binding[] = [];
  private layers: string[] = [pageLayer];
  private begun?: { stroke: Stroke; at: number };
  private readonly heard = new Set<() => void>();

  constructor(
    /** What is said when two actions have one key. */
    private readonly refuse: (message: string) => void,
    private readonly now: () => number = () => performance.now(),
  ) {}

  /** Adds an action, until what is returned is called. */
  add(b: Binding): () => void {
    for (const other of this.bindings) {
      const key = other.layer === b.layer && clash(other, b);
      if (key) this.refuse(`The key ${key} has two actions: “${other.does}” and “${b.does}”.`);
    }
    this.change([...this.bindings, b]);
    return () => this.change(this.bindings.filter((x) => x !== b));
  }

  /** Opens a layer above the others, until what is returned is called. */
  open(layer: string): () => void {
    this.layers = [...this.layers, layer];
    this.begun = undefined;
    this.change(this.bindings);
    return () => {
      this.layers = this.layers.filter((l) => l !== layer);
      this.change(this.bindings);
    };
  }

  /** All actions of the page, also while a dialog lies above it. */
  list = () => this.bindings;

  subscribe = (f: () => void) => {
    this.heard.add(f);
    return () => void this.heard.delete(f);
  };

  handle = (e: KeyboardEvent) => {
    if (
      e.defaultPrevented ||
      e.isComposing ||
      ['Shift', 'Control', 'Alt', 'Meta', 'AltGraph', 'CapsLock', 'Dead'].includes(e.key)
    )
      return;
    const stroke = pressed(e);
    const el = e.target instanceof Element ? e.target : document.body;
    const taken = belongsTo(el, stroke);
    const active = this.bindings.filter((b) => b.layer === this.layers.at(-1) && (!taken || (b.typing && isField(el))));
    const begun = this.begun;
    this.begun = undefined;
    if (begun && !taken && this.now() - begun.at < patience) {
      const next = active.find((b) => b.keys.some((k) => k[1] && k[0] && same(k[0], begun.stroke) && same(k[1], stroke)));
      if (next || stroke.key !== 'escape') this.act(next, e);
      return; // nothing else begins with a key that was meant to end a sequence
    }
    if (active.some((b) => b.keys.some((k) => k.length > 1 && k[0] && same(k[0], stroke)))) {
      this.begun = { stroke, at: this.now() };
      e.preventDefault();
      return;
    }
    const one = active.findLast((b) => b.keys.some((k) => k.length === 1 && k[0] && same(k[0], stroke)));
    if (one) this.act(one, e);
  };

  private act(b: Binding | undefined, e: KeyboardEvent) {
    e.preventDefault();
    if (b && (!e.repeat || b.repeat)) b.run(e);
  }

  private change(to: readonly Binding[]) {
    this.bindings = to;
    this.heard.forEach((f) => f());
  }
}

/** The key that two actions share, or with which one begins a sequence that the other has for itself. */
function clash(a: Binding, b: Binding): string | undefined {
  for (const x of a.keys) {
    for (const y of b.keys) {
      const n = Math.min(x.length, y.length);
      if (x.slice(0, n).every((s, i) => same(s, y[i] as Stroke)) && (x.length === y.length || n === 1)) return show(x);
    }
  }
  return undefined;
}

export const bindingOf = (keys: string, rest: Omit<Binding, 'keys'>): Binding => ({ keys: parse(keys), ...rest });
