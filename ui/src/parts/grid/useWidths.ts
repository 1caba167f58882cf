import { useEffect, useMemo, useState, type RefObject } from 'react';
import { least, share, type GridColumn, type Shown } from './column';

let pen: CanvasRenderingContext2D | null | undefined;

/** How wide a text is as rows of a grid are written. */
function measure(text: string): number {
  pen ??= document.createElement('canvas').getContext('2d');
  if (!pen) return text.length * 7;
  pen.font = '13px "Public Sans Variable", system-ui, sans-serif';
  return pen.measureText(text).width;
}

/** Space at both sides of a cell, and a little that a text is wider with figures of equal width. */
const sides = 17;

/** What a column wants: its title, and the widest of the rows, in a text of that size. */
function wish<T>(c: GridColumn<T>, rows: T[], sorted: boolean, size: number): number {
  if (c.width !== undefined) return c.width;
  const { beside = 0 } = c;
  const more = typeof beside === 'number' ? () => beside : beside;
  const head = measure(c.title) * 0.93 + (sorted ? 14 : 0);
  const texts = rows.slice(0, 400).map((r) => (measure(c.text(r)) * size) / 13 + more(r));
  return Math.ceil(Math.max(least - sides, head, ...texts) + sides);
}

/** The widths of the columns in pixels, from what stands in them and the room that there is. */
export function useWidths<T>(
  shown: Shown<T>[],
  rows: T[],
  box: RefObject<HTMLElement | null>,
  taken: number,
  sort: string | undefined,
  size: number,
): number[] {
  const [room, setRoom] = useState(0);
  const [ready, setReady] = useState(false);
  useEffect(() => {
    void document.fonts.ready.then(() => setReady(true));
    const el = box.current;
    if (!el) return;
    const seen = new ResizeObserver(() => setRoom(el.clientWidth));
    seen.observe(el);
    return () => seen.disconnect();
  }, [box]);
  return useMemo(
    () =>
      share(
        shown.map(({ column, width }) =>
          width
            ? { width, fixed: true }
            : {
                width: wish(column, rows, column.name === sort, size),
                cut: column.cut,
                fixed: column.width !== undefined && !column.grows,
                grows: column.grows,
              },
        ),
        room - taken,
      ),
    // Measured anew once the fonts are there.
    // eslint-disable-next-line react-hooks/exhaustive-deps
    [shown, rows, room, taken, ready, sort, size],
  );
}
