// The page of a file: from gap to gap, what a line is made of, and the small map
// beside the source.

let facts, chosen, gaps, atGap; // gaps: from line, to line, what is missing

function bootFile() {
  facts = data();
  chosen = null;
  atGap = -1;
  // Several gaps on a line are one stop.
  gaps = [];
  for (const [from, to, what] of facts.gaps) {
    const last = gaps[gaps.length - 1];
    if (last?.[0] === from) gaps[gaps.length - 1] = [from, Math.max(last[1], to), `${last[2]}; ${what}`];
    else gaps.push([from, to, what]);
  }
  const table = $("source");
  document.querySelector(".travel").hidden = !gaps.length;
  if (gaps.length) {
    $("gap").textContent = facts.gaps.length === 1 ? "1 gap" : `${facts.gaps.length} gaps`;
    $("following").addEventListener("click", () => travel(1));
    $("previous").addEventListener("click", () => travel(-1));
  }
  keys.set(".", ["next gap", () => travel(1), "Gaps"]);
  keys.set(",", ["gap before", () => travel(-1), "Gaps"]);
  keys.set("ArrowDown", ["next line of code", () => step(1), "Lines"]);
  keys.set("ArrowUp", ["line of code before", () => step(-1), "Lines"]);
  keys.set("Enter", ["what the line is made of", () => chosen && toggle(chosen), "Lines"]);
  keys.set(">", ["next file", () => document.querySelector("a[rel=next]")?.click(), "Files"]);
  keys.set("<", ["file before", () => document.querySelector("a[rel=prev]")?.click(), "Files"]);
  table.addEventListener("click", clicked);
  table.addEventListener("copy", copied);
  fromAddress();
  bootStrip();
}

addEventListener("hashchange", () => { if ($("source")) fromAddress(); });

function fromAddress() {
  const row = /^L\d+$/.test(part()) && document.getElementById(part());
  if (!row) return;
  choose(row);
  row.scrollIntoView({ block: "center" });
}

// copied gives the text of the source alone, with its blank lines and without notes.
function copied(event) {
  const selection = getSelection();
  if (!selection.rangeCount) return;
  const range = selection.getRangeAt(0);
  const rows = [...document.querySelectorAll("tr[id]")].filter((row) => range.intersectsNode(row.cells[2]));
  if (rows.length < 2) return;
  const text = rows.map((row) => {
    const cell = row.cells[2], part = document.createRange();
    part.selectNodeContents(cell);
    if (cell.contains(range.startContainer)) part.setStart(range.startContainer, range.startOffset);
    if (cell.contains(range.endContainer)) part.setEnd(range.endContainer, range.endOffset);
    return part.toString();
  });
  event.clipboardData.setData("text/plain", text.join("\n"));
  event.preventDefault();
}

const lineOf = (row) => Number(row.id.slice(1));

function travel(by) {
  if (!gaps.length) return;
  // After a jump elsewhere, travel goes on from there.
  if (chosen && gaps[atGap]?.[0] !== lineOf(chosen)) {
    const after = gaps.findIndex(([from]) => from > lineOf(chosen));
    atGap = after < 0 ? gaps.length : after;
    if (by > 0) atGap--;
    else if (gaps[atGap - 1]?.[0] === lineOf(chosen)) atGap--;
  }
  atGap = (atGap + by + gaps.length) % gaps.length;
  const [from, to, what] = gaps[atGap];
  const row = $("L" + from);
  choose(row);
  setPart(row.id);
  row.scrollIntoView({ block: "center", behavior: matchMedia("(prefers-reduced-motion: reduce)").matches ? "auto" : "smooth" });
  $("gap").textContent = `place ${atGap + 1} of ${gaps.length}`;
  say(`place ${atGap + 1} of ${gaps.length}, ${from === to ? "line " + from : `lines ${from} to ${to}`}: ${what}`);
}

function step(by) {
  const rows = [...document.querySelectorAll("tr[id]:is(.n, .p, .f, .w)")];
  const at = chosen ? rows.findIndex((r) => lineOf(r) >= lineOf(chosen)) : by > 0 ? -1 : 0;
  const exact = chosen && rows[at] === chosen;
  const row = rows[exact || by < 0 || !chosen ? at + by : at];
  if (!row) return;
  choose(row);
  setPart(row.id);
  row.scrollIntoView({ block: "nearest" });
  say(`line ${lineOf(row)}, ${state(row)}: ${row.cells[2].textContent.trim()}`);
}

function choose(row) {
  chosen?.classList.remove("here");
  chosen = row;
  row.classList.add("here");
}

function clicked(event) {
  const row = event.target.closest("tr[id]");
  if (!row || event.target.closest("a")) return;
  if (event.target.closest("button")) { choose(row); toggle(row); return; }
  if (event.target.closest("th")) {
    choose(row);
    setPart(row.id);
    if (row.className.match(/[fpnw]/)) toggle(row);
  }
}

function state(row) {
  const word = [..."fpnw"].find((c) => row.classList.contains(c));
  return { f: "full", p: "part", n: "none", w: "waived" }[word] || "not code";
}

const meaning = {
  full: "all that begins here ran",
  part: "it counts as a line that ran, but not all of it did, or not every way",
  none: "nothing that begins here ran",
  waived: "it is not in the totals",
};

// toggle opens or closes the details of a line.
function toggle(row) {
  const button = row.querySelector("button");
  let last = row; // of its rows: notes stand below it
  while (last.nextElementSibling?.classList.contains("s")) last = last.nextElementSibling;
  if (last.nextElementSibling?.classList.contains("details")) {
    last.nextElementSibling.remove();
    button?.setAttribute("aria-expanded", "false");
    return;
  }
  if (state(row) === "not code") return;
  button?.setAttribute("aria-expanded", "true");
  last.after(make("tr", { className: "details" }, make("td", { colSpan: 3 }, details(row))));
}

function details(row) {
  const line = lineOf(row), fact = facts.lines[line] || {}, what = state(row);
  const box = make("div", { tabIndex: 0, role: "group", "aria-label": `Line ${line}` }, make("p", {}, make("i", { className: "mark " + what[0] }), ` ${what}: ${meaning[what]}${what === "full" && fact.decisions ? ", and each decision went every way" : ""}`));
  const count = row.cells[1].title || row.cells[1].textContent;
  if (fact.begins) {
    const list = make("table");
    for (const [name, times] of fact.begins) list.append(make("tr", {}, make("th", { scope: "row" }, name), make("td", {}, times)));
    box.append(list);
  } else box.append(make("p", {}, count === "0" ? "one statement begins here; it did not begin" : `one statement begins here; count ${count}`));
  for (const d of fact.decisions || []) {
    const list = make("table", { className: "decision" }, make("caption", {}, `${d.kind}, column ${d.column}: ${d.outcomes.length} ways`));
    for (const [label, times] of d.outcomes) {
      list.append(make("tr", { className: times === "never" ? "never" : "" },
        make("td", {}, make("i", { className: "mark " + (times === "never" ? "n" : "f") })), make("th", { scope: "row" }, label), make("td", {}, times)));
    }
    box.append(list);
    for (const t of d.tables || []) box.append(...truthTable(t));
  }
  for (const [from, to, reason] of facts.waivers) {
    if (from <= line && line <= to) box.append(make("p", {}, `waived: ${reason}`));
  }
  if (count !== "0") {
    box.append(make("p", { className: "faint" }, `reached by ${facts.reached[facts.by[line] || 0]}`));
  }
  return box;
}

// truthTable gives a boolean expression: its conditions, and the ways through it.
function truthTable(t) {
  const conditions = make("table", { className: "decision" }, make("caption", {}, t.formula));
  for (const c of t.conditions) {
    conditions.append(make("tr", {}, make("td", {}, make("i", { className: "mark " + (c.shown ? "f" : "p") })), make("th", { scope: "row" }, c.name),
      make("td", {}, make("code", {}, c.text)), make("td", {}, `true ${c.true}, false ${c.false}`), make("td", { className: c.shown ? "" : "lacks" }, c.says)));
  }
  const ways = make("table", { className: "ways" }, make("tr", {}, ...["way", ...t.conditions.map((c) => c.name), "result", "taken", "shows"].map((h) => make("th", { scope: "col" }, h))));
  for (const w of t.ways) {
    ways.append(make("tr", { className: w.taken === "never" ? "faint" : "" },
      ...[w.number, ...w.values.map((v) => v || "·"), w.result, w.taken, w.proves].map((v) => make("td", {}, String(v)))));
  }
  const out = [conditions];
  if (t.ways.length) out.push(ways);
  if (t.hidden) out.push(make("p", { className: "faint" }, `and ${t.hidden} ways neither taken nor needed`));
  return [...out, make("p", {}, t.more)];
}

// bootStrip keeps the small map in step with the window.
function bootStrip() {
  const strip = document.querySelector(".strip"), table = $("source"), view = $("view");
  const follow = () => {
    if (!table.isConnected) return;
    const box = table.getBoundingClientRect();
    const top = Math.max(0, -box.top) / box.height, bottom = Math.min(box.height, innerHeight - box.top) / box.height;
    view.style.top = `${100 * top}%`;
    view.style.height = `${100 * Math.max(0.01, bottom - top)}%`;
  };
  addEventListener("scroll", follow, { passive: true });
  addEventListener("resize", follow);
  follow();
  const rows = document.querySelectorAll("tr[id]");
  const go = (e) => {
    const box = strip.getBoundingClientRect();
    const at = Math.floor((e.clientY - box.top) / box.height * rows.length);
    rows[Math.max(0, Math.min(rows.length - 1, at))]?.scrollIntoView({ block: "center" });
  };
  strip.addEventListener("pointerdown", (e) => {
    go(e);
    strip.setPointerCapture(e.pointerId);
    strip.onpointermove = go;
  });
  strip.addEventListener("pointerup", () => { strip.onpointermove = null; });
}
