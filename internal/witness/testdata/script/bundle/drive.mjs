// Uses much of zod, as it was written or as a bundler made it: drive.mjs FILE.
import { pathToFileURL } from "node:url";
import { writeFileSync } from "node:fs";

const { z } = await import(pathToFileURL(process.argv[2]));
const fare = z.object({
  island: z.string().min(2).max(12).regex(/^[a-z]+$/),
  age: z.number().int().min(0).max(120),
  cars: z.array(z.object({ metres: z.number().positive(), trailer: z.boolean().default(false) })).max(4).optional(),
  night: z.union([z.literal("yes"), z.literal("no"), z.boolean()]),
  mail: z.string().email().nullable(),
  paid: z.coerce.number().multipleOf(50),
  deck: z.discriminatedUnion("kind", [z.object({ kind: z.literal("car"), lane: z.number() }), z.object({ kind: z.literal("open") })]),
}).strict().refine((t) => t.age > 15 || t.deck.kind === "open", "children stay on the open deck");
const said = [];
const good = { island: "skerry", age: 30, night: true, mail: null, paid: "1250", deck: { kind: "car", lane: 2 } };
for (const change of [{}, { age: 3 }, { age: "old" }, { island: "X" }, { cars: [{ metres: 5 }, { metres: -1, trailer: 3 }] }, { night: "perhaps" },
  { mail: "nobody" }, { mail: "mate@skerry.example" }, { paid: "33" }, { deck: { kind: "hold" } }, { deck: { kind: "open" }, age: 4 }, { more: 1 }, { cars: "many" }]) {
  const result = fare.safeParse({ ...good, ...change });
  said.push(result.success ? result.data : result.error.issues.map((i) => `${i.path.join(".")}: ${i.message}`));
}
const tide = z.record(z.enum(["low", "high"]), z.tuple([z.date(), z.bigint()]).rest(z.string()));
for (const value of [{ low: [new Date(0), 3n, "a"] }, { low: [1, 2] }, { none: [] }, [], new Map()]) said.push(tide.safeParse(value).success);
const day = z.string().datetime().transform((s) => new Date(s)).pipe(z.date().min(new Date(0)));
for (const value of ["2026-05-01T06:00:00Z", "1960-01-01T00:00:00Z", "noon", 4]) said.push(day.safeParse(value).success);
const crew = z.lazy(() => z.object({ name: z.string().trim().toUpperCase(), mates: z.array(crew).catch([]) }));
said.push(crew.parse({ name: " ada ", mates: [{ name: "bo", mates: 3 }] }));
said.push(z.map(z.string(), z.set(z.number())).safeParse(new Map([["lanes", new Set([1, 2])]])).success);
said.push(await z.promise(z.string()).parseAsync(Promise.resolve("ashore")), fare.shape ?? Object.keys(fare.innerType().pick({ age: true }).shape));
try { z.function().args(z.number()).returns(z.string()).implement((n) => n)(3); } catch (e) { said.push(e.issues[0].code); }
writeFileSync("result", JSON.stringify(said, (_, v) => (typeof v === "bigint" ? String(v) : v), 1));
