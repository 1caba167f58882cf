/** Why what was typed into a field is not taken, beneath it. */
export function Refusal({ id, why }: { id: string; why?: string }) {
  if (!why) return null;
  return (
    <span id={id} role="alert" className="why">
      {why}
    </span>
  );
}
