// Solves integer programs in the CPLEX LP form with HiGHS (npm highs, MIT), for the Go tests: one JSON
// text a line on standard input, its optimal objective a line on standard output.
import { createInterface } from "node:readline";
import load from "highs";

for await (const line of createInterface({ input: process.stdin })) {
  // A fresh solver each time: it keeps what it was told before.
  const highs = await load();
  const found = highs.solve(JSON.parse(line), {
    mip_rel_gap: 0,
    mip_abs_gap: 0.5,
  });
  if (found.Status !== "Optimal") throw new Error(`${found.Status}: ${line}`);
  console.log(Math.round(found.ObjectiveValue));
}
