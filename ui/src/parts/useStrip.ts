import { useQuery } from '@tanstack/react-query';
import { questions } from '../base/questions';

/** The journey bar of the whole book. */
export function useStrip() {
  return useQuery(questions.strip());
}
