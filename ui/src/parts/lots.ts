/** Where the page of lots shows one lot of an item. */
export const lotSearch = (sku: string, lot: string) => ({ only: [`item=${sku}`, `lot=${lot}`] });

/** The one lot of one item to which the rows are narrowed down, if they are. */
export function oneLot(only: string[] = []): { sku: string; lot: string } | undefined {
  const of = (column: string) => {
    const found = only.filter((c) => c.startsWith(`${column}=`)).map((c) => c.slice(column.length + 1));
    return found.length === 1 ? found[0] : undefined;
  };
  const [sku, lot] = [of('item'), of('lot')];
  return sku && lot ? { sku, lot } : undefined;
}
