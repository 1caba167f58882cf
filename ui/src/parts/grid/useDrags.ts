import { useState, type DragEvent } from 'react';

/** Rows of a list that can be dragged onto others. */
export interface Drags<T> {
  can: (row: T) => boolean;
  drop: (from: T, onto: T) => void;
}

/** What the body of a table does when its rows are dragged, and over which of them one is held. */
export function useDrags<T>(drags: Drags<T> | undefined, rowAt: (index: number) => T | undefined) {
  const [from, setFrom] = useState<T>();
  const [over, setOver] = useState<T>();
  if (!drags) return { over: undefined };
  const under = (e: DragEvent) => {
    const row = e.target instanceof Element ? e.target.closest('tr[data-row]') : null;
    return row ? rowAt(Number(row.getAttribute('aria-rowindex')) - 2) : undefined;
  };
  const end = () => {
    setFrom(undefined);
    setOver(undefined);
  };
  return {
    over,
    body: {
      onDragStart: (e: DragEvent) => {
        setFrom(under(e));
        e.dataTransfer.effectAllowed = 'move';
        e.dataTransfer.setData('text/plain', ''); // without any, nothing is dragged
      },
      onDragEnd: end,
      onDragOver: (e: DragEvent) => {
        const onto = under(e);
        if (from === undefined || onto === undefined || onto === from) return setOver(undefined);
        e.preventDefault();
        setOver(onto);
      },
      onDrop: (e: DragEvent) => {
        e.preventDefault();
        if (from !== undefined && over !== undefined) drags.drop(from, over);
        end();
      },
    },
  };
}
