import { useLayoutEffect, useMemo, useRef, type RefObject } from 'react';
import { useDrag, useDrop } from 'react-aria-components';

/** Rows of a list that can be dragged onto others. */
export interface Drags<T> {
  can: (row: T) => boolean;
  drop: (from: T, onto: T) => void;
  /** What is taken up with a row, as the button for it says. */
  what: (row: T) => string;
}

/** What the rows of one list know of a drag together. */
export interface Dragging<T> {
  drags: () => Drags<T> | undefined;
  /** The row that is dragged now. */
  held: () => Held<T> | undefined;
  hold: (row: Held<T> | undefined) => void;
}

interface Held<T> {
  id: string;
  row: T;
}

/** Ties the rows of a list together for dragging. */
export function useDragging<T>(drags: Drags<T> | undefined): Dragging<T> {
  const last = useRef(drags);
  const held = useRef<Held<T>>(undefined);
  useLayoutEffect(() => {
    last.current = drags;
  });
  return useMemo(() => ({ drags: () => last.current, held: () => held.current, hold: (row) => (held.current = row) }), []);
}

/**
 * What a row does when it is dragged, or another onto it: by the pointer, or by keys from its button
 * (Enter takes it up, Tab goes through the rows, Enter puts it down, Escape puts it back).
 */
export function useRowDrag<T>(
  { drags, held, hold }: Dragging<T>,
  { id, row, can, ref }: { id: string; row: T; can: boolean; ref: RefObject<HTMLTableRowElement | null> },
) {
  const drag = useDrag({
    hasDragButton: true,
    isDisabled: !can,
    getAllowedDropOperations: () => ['move'],
    getItems: () => [{ 'text/plain': drags()?.what(row) ?? '' }],
    onDragStart: () => hold({ id, row }),
    onDragEnd: () => hold(undefined),
  });
  const drop = useDrop({
    ref,
    getDropOperation: () => {
      const from = held();
      return from !== undefined && from.id !== id ? 'move' : 'cancel';
    },
    onDrop: () => {
      const from = held();
      if (from) drags()?.drop(from.row, row);
    },
  });
  return { drag, drop };
}
