import { createContext, useContext } from 'react';
import { command, type AskOf, type CommandPath, type Outcome } from '../api/call';

export interface Toast {
  text: string;
  bad?: boolean;
  stale?: boolean;
  documents?: Outcome['documents'];
  undo?: number;
  working?: { key: string; stop: () => void };
}

/** A toast as it stands on the screen. */
export interface Shown {
  key: string;
  content: Toast;
}

interface Tells {
  tell: (toast: Toast) => void;
  /** Carries out a command; while it takes longer than one is used to, that is shown, with the way to cancel it. */
  carryOut: <P extends CommandPath>(path: P, ask: AskOf<P>, reason?: string) => Promise<Outcome>;
}

export const Telling = createContext<Tells>({ tell: () => {}, carryOut: (path, ask, reason) => command(path, ask, reason) });
export const useToasts = () => useContext(Telling);
