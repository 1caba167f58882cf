import { keepPreviousData, useQuery } from '@tanstack/react-query';
import { createContext, useContext, useMemo, useState } from 'react';
import { ask, client, type AskOf, type Schemas } from '../../api/call';
import type { Grid } from '../../parts/grid/useGrid';

export type Line = Schemas['ReleaseLine'];
export type Wave = NonNullable<AskOf<'/api/release'>['wave']>;

/**
 * What of the chosen lines is to be released: all that is allocated, or what was typed. A line that has changed keeps at most what is
 * allocated now.
 */
export function useReleasing(grid: Grid<Line>) {
  const [typed, setTyped] = useState<Record<number, number | undefined>>({});
  const { choice } = grid;
  return useMemo(() => {
    const has = (l: Line) => choice.has(String(l.id));
    return {
      qty: (l: Line) => (has(l) ? Math.min(typed[l.id] ?? l.at.allocated, l.at.allocated) : 0),
      /** Chooses the line with so many units, or not at all. */
      set: (l: Line, n: number) => {
        if (n > 0 !== has(l)) choice.toggle(l);
        setTyped((was) => ({ ...was, [l.id]: n > 0 && n < l.at.allocated ? n : undefined }));
      },
      none: () => {
        setTyped({});
        choice.clear();
      },
      /** Chooses these lines, with all that they have allocated, in place of those that were. */
      take: (lines: Schemas['LineUnits'][]) => {
        setTyped({});
        choice.setAll(new Map(lines.map((l) => [String(l.line), { seen: l.seen ?? 0 }])), {});
      },
      /** The lines as the command takes them: without a quantity, all that is allocated. */
      lines: [...choice.ids].map(([id, c]) => ({ line: Number(id), qty: typed[Number(id)] ?? 0, seen: c.seen })),
    };
  }, [typed, choice]);
}

export type Releasing = ReturnType<typeof useReleasing>;

/** What is to be released, for the cells of the list. */
export const ReleasingContext = createContext<Releasing | undefined>(undefined);
export const useInRelease = () => useContext(ReleasingContext);

/** How lists are made and what is printed: as somebody likes it, kept in their browser. */
export interface Floor {
  wave: Wave;
  print: boolean;
  packing: boolean;
}

const kept = 'journeyman.wave';
const usual: Floor = { wave: {}, print: true, packing: false };

function read(): Floor {
  try {
    const was: unknown = JSON.parse(localStorage.getItem(kept) ?? '{}');
    return { ...usual, ...(was && typeof was === 'object' ? was : {}) };
  } catch {
    return usual;
  }
}

export function useFloor() {
  const [floor, setFloor] = useState(read);
  return [
    floor,
    (next: Partial<Floor>) =>
      setFloor((was) => {
        const now = { ...was, ...next };
        localStorage.setItem(kept, JSON.stringify(now));
        return now;
      }),
  ] as const;
}

/** What that comes to, as the server says it. */
export function useEffectOf(of: Releasing, wave: Wave) {
  const body = { lines: of.lines, wave };
  return useQuery({
    queryKey: ['release try', body],
    queryFn: ({ signal }) => ask(client.POST('/api/rehearse-release', { body, signal })),
    placeholderData: keepPreviousData,
    enabled: of.lines.length > 0,
  }).data;
}
