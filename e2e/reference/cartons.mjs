// Packs boxes into cartons of one size with binpackingjs (MIT), for the Go tests: one problem a line on standard input, how many
// cartons it takes a line on standard output. There are as many cartons as boxes.
import { createInterface } from "node:readline";
import { pack3D } from "binpackingjs/3d";

for await (const line of createInterface({ input: process.stdin })) {
  const { inner, most, boxes } = JSON.parse(line);
  const found = pack3D({
    bins: boxes.map((_, i) => ({ name: `${i}`, width: inner[0], height: inner[1], depth: inner[2], maxWeight: most })),
    items: boxes.map((b, i) => ({ name: `${i}`, width: b.size[0], height: b.size[1], depth: b.size[2], weight: b.weight })),
  });
  if (found.unfitItems.length > 0) throw new Error(`${found.unfitItems.length} do not fit: ${line}`);
  console.log(found.packedBins.filter((b) => b.items.length > 0).length);
}
