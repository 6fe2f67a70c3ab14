// The tables of files and of functions: they sort, filter and fold, and draw
// only so many rows at a time.

const atOnce = 250;

function percent(covered, total) {
  if (!total) return "–";
  const h = Math.floor(covered * 10000 / total);
  return `${Math.floor(h / 100)}.${String(h % 100).padStart(2, "0")}%`;
}

const of = (covered, total) => total ? `${covered}/${total}` : "–";
const grouped = (n) => String(n).replace(/\B(?=(\d{3})+$)/g, ",");

// share orders ratios; of nothing, all ran.
const share = (covered, total) => total ? covered / total : 2;

function gauge(covered, total) {
  if (!total) return "";
  const svg = document.createElementNS("http://www.w3.org/2000/svg", "svg");
  svg.setAttribute("class", "gauge");
  svg.setAttribute("viewBox", "0 0 80 12");
  svg.setAttribute("preserveAspectRatio", "none");
  svg.setAttribute("aria-hidden", "true");
  for (const [name, width] of [["rest", 80], ["ran", covered ? Math.max(2, Math.floor(covered * 80 / total)) : 0]]) {
    const rect = document.createElementNS("http://www.w3.org/2000/svg", "rect");
    rect.setAttribute("class", name);
    rect.setAttribute("width", width);
    rect.setAttribute("height", 12);
    svg.append(rect);
  }
  return svg;
}

// objects turns rows of arrays into objects.
function objects(columns, rows) {
  return rows.map((row) => Object.fromEntries(columns.map((c, i) => [c, row[i]])));
}

// What is no number that adds up.
const named = new Set(["path", "href", "name", "children", "folders"]);

function addTo(sum, row) {
  for (const key in row) if (!named.has(key) && key !== "files") sum[key] = (sum[key] || 0) + (row[key] || 0);
  sum.files = (sum.files || 0) + (row.files || 1);
  return sum;
}

// treeOf hangs files into their folders; a folder that holds nothing but one
// folder is drawn together with it.
function treeOf(files) {
  const root = { path: "", name: "", children: [], folders: new Map() };
  for (const file of files) {
    const elements = file.path.split("/");
    let at = root, path = "";
    for (const element of elements.slice(0, -1)) {
      path += element + "/";
      if (!at.folders.has(element)) {
        const folder = { path, name: element + "/", children: [], folders: new Map() };
        at.folders.set(element, folder);
        at.children.push(folder);
      }
      at = at.folders.get(element);
    }
    at.children.push({ ...file, name: elements.at(-1) });
  }
  const finish = (node) => {
    node.children = node.children.map((child) => {
      if (!child.folders) return child;
      while (child.children.length === 1 && child.children[0].folders) {
        child.children[0].name = child.name + child.children[0].name;
        child = child.children[0];
      }
      return finish(child);
    });
    for (const child of node.children) addTo(node, child);
    return node;
  };
  return finish(root);
}

// breakable lets a path break where its elements and words end.
function breakable(path) {
  return path.split(/(?<=[/_])/).flatMap((piece) => [make("wbr"), piece]);
}

function lineShare(r) {
  if (!r["of:lines"] && r.waived) return make("span", { className: "faint" }, "waived");
  return [gauge(r.lines, r["of:lines"]), make("span", { className: "share" }, percent(r.lines, r["of:lines"]))];
}

function fileColumns(facts) {
  const link = (row) => make("a", { href: row.href }, ...breakable(row.name));
  const columns = [
    { key: "path", title: "file", order: (r) => r.name, cell: link },
    { key: "lines", title: "lines", order: (r) => share(r.lines, r["of:lines"]), cell: lineShare },
    { key: "ran", title: "ran", order: (r) => r.lines, cell: (r) => of(r.lines, r["of:lines"]), faint: true },
    { key: "left", title: "not run", order: (r) => r["of:lines"] - r.lines, cell: (r) => r["of:lines"] - r.lines || "", most: true },
  ];
  for (const m of facts.metrics.slice(1)) {
    const ran = (r) => r[m.name], all = (r) => r["of:" + m.name];
    if (m.share) columns.push({ key: m.name, title: m.name, metric: true, order: (r) => share(ran(r), all(r)), cell: (r) => percent(ran(r), all(r)) });
    columns.push({ key: m.share ? m.noun : m.name, title: m.share ? m.noun : m.name, metric: true, faint: m.share,
      order: (r) => m.share ? ran(r) : share(ran(r), all(r)), cell: (r) => of(ran(r), all(r)) });
  }
  columns.push({ key: "gaps", title: "gaps", order: (r) => r.gaps, cell: (r) => r.gaps || "", most: true });
  if (facts.against) {
    const moved = (r) => r.wasOfLines && r["of:lines"] ? Math.floor(r.lines * 10000 / r["of:lines"]) - Math.floor(r.wasLines * 10000 / r.wasOfLines) : 0;
    columns.splice(4, 0, { key: "change", title: "change", order: moved, cell: (r) => {
      const d = moved(r);
      if (r.wasLines === null) return make("span", { className: "faint" }, "new");
      return d ? make("span", { className: d > 0 ? "up" : "down" }, `${d > 0 ? "▲" : "▼"} ${(Math.abs(d) / 100).toFixed(2)}`) : "";
    } });
  }
  if (facts.changed) columns.push({ key: "changed", title: "changed", order: (r) => r.changed, most: true,
    cell: (r) => !r.changed ? "" : r.files ? grouped(r.changed) : make("span", {}, make("i", { className: "mark c" }), " yes") });
  return columns;
}

function functionColumns(hits) {
  const calls = (r) => r.waived ? "waived" : r.count === "0" ? make("span", { className: "never" }, "never") : hits ? "called" : grouped(r.count);
  return [
    { key: "path", title: "function", order: (r) => r.name, cell: (r) => [make("a", { href: r.href }, r.name), make("small", { className: "at faint" }, ...breakable(`${r.path}:${r.line}`))] },
    { key: "file", title: "file", order: (r) => r.path, text: true, cell: (r) => `${r.path}:${r.line}` },
    { key: "calls", title: "calls", order: (r) => Number(r.count), most: true, cell: calls },
    { key: "lines", title: "lines", order: (r) => share(r.lines, r["of:lines"]), cell: lineShare },
    { key: "ran", title: "ran", order: (r) => r.lines, cell: (r) => of(r.lines, r["of:lines"]), faint: true },
    { key: "left", title: "not run", order: (r) => r["of:lines"] - r.lines, cell: (r) => r["of:lines"] - r.lines || "", most: true },
    { key: "branches", title: "branches", metric: true, order: (r) => share(r.branches, r["of:branches"]), cell: (r) => percent(r.branches, r["of:branches"]) },
    { key: "outcomes", title: "outcomes", metric: true, order: (r) => r.branches, cell: (r) => of(r.branches, r["of:branches"]), faint: true },
  ];
}

function bootTable() {
  const facts = data();
  const rows = objects(facts.columns, facts.rows);
  const table = $("table");
  const functions = Boolean(facts.files);
  if (functions) {
    for (const r of rows) {
      r.path = facts.files[r.file];
      r.href = facts.hrefs[r.file] + (single() ? ":L" : "#L") + r.line;
    }
  }
  const list = {
    table, rows, functions,
    columns: functions ? functionColumns(table.dataset.hits === "true") : fileColumns(facts),
    tree: functions ? null : treeOf(rows),
    open: new Set(),
    limit: atOnce,
    noun: functions ? ["function", "functions"] : ["file", "files"],
    tests: { gaps: functions ? (r) => r.count === "0" && !r.waived : (r) => r.gaps > 0, changed: (r) => r.changed > 0 },
    first: functions ? ["left", true] : ["path", false],
    state: { gaps: false, changed: false, flat: false },
  };
  if (list.tree && rows.length <= 60) everyFolder(list.tree, (f) => list.open.add(f.path));
  else if (list.tree && list.tree.children.length === 1) list.open.add(list.tree.children[0].path);
  document.querySelector(".controls").hidden = false;
  Object.assign(list.state, { find: "", sort: list.first[0], down: list.first[1] });
  readState(list);
  wireControls(list);
  drawHead(list);
  drawRows(list);
  if (list.tree) bootMap(list);
  addEventListener("hashchange", () => {
    if (!table.isConnected || !/^$|=/.test(part())) return;
    readState(list);
    drawRows(list);
  });
}

function everyFolder(node, act) {
  for (const child of node.children) {
    if (!child.children) continue;
    act(child);
    everyFolder(child, act);
  }
}

// readState takes the view from the address, and writeState puts it there.
function readState(list) {
  if (!part().includes("=")) return;
  const from = new URLSearchParams(part().replace(/\+/g, "%2B"));
  const s = list.state;
  s.find = from.get("find") || "";
  s.sort = list.columns.some((c) => c.key === from.get("sort")) ? from.get("sort") : list.first[0];
  s.down = from.has("sort") ? from.get("down") === "1" : list.first[1];
  for (const flag of ["gaps", "changed", "flat"]) s[flag] = from.get(flag) === "1";
}

function writeState(list) {
  const s = list.state, words = [];
  if (s.find) words.push("find=" + s.find.replace(/[&%#+]/g, encodeURIComponent));
  if (s.sort !== list.first[0] || s.down !== list.first[1]) words.push("sort=" + s.sort + (s.down ? "&down=1" : ""));
  for (const flag of ["gaps", "changed", "flat"]) if (s[flag]) words.push(flag + "=1");
  setPart(words.join("&"));
}

function wireControls(list) {
  const s = list.state;
  const turned = () => { list.limit = atOnce; writeState(list); drawRows(list); };
  $("filter").addEventListener("input", (e) => { s.find = e.target.value; turned(); });
  $("filter").addEventListener("keydown", (e) => { if (e.key === "Escape") { s.find = ""; turned(); } });
  for (const [id, flag] of [["only-gaps", "gaps"], ["only-changed", "changed"], ["flat", "flat"]]) {
    $(id)?.addEventListener("change", (e) => { s[flag] = e.target.checked; turned(); });
  }
  $("fold")?.addEventListener("click", () => {
    if (list.open.size) list.open.clear();
    else everyFolder(list.tree, (f) => list.open.add(f.path));
    drawRows(list);
  });
  $("more").addEventListener("click", () => {
    const first = list.table.tBodies[0].rows.length;
    list.limit += 4 * atOnce;
    drawRows(list);
    list.table.tBodies[0].rows[first]?.querySelector("a, button")?.focus();
  });
}

function drawHead(list) {
  const head = make("tr");
  for (const column of list.columns) {
    const button = make("button", { type: "button" }, column.title);
    const th = make("th", { scope: "col", className: column.key + (column.metric ? " metric" : "") + (column.text ? " text" : "") }, button);
    button.addEventListener("click", () => {
      const s = list.state;
      if (s.sort === column.key) s.down = !s.down;
      else { s.sort = column.key; s.down = Boolean(column.most); }
      writeState(list);
      drawRows(list);
      say(`sorted by ${column.title}, ${s.down ? "the most first" : "the least first"}`);
    });
    column.head = th;
    head.append(th);
  }
  list.table.replaceChildren(make("thead", {}, head), make("tbody"));
}

function sorted(list, rows) {
  const { sort, down } = list.state;
  const order = list.columns.find((c) => c.key === sort).order;
  const keyed = rows.map((row, i) => [order(row), i, row]);
  keyed.sort((a, b) => {
    const d = a[0] < b[0] ? -1 : a[0] > b[0] ? 1 : 0;
    return (down ? -d : d) || a[1] - b[1];
  });
  return keyed.map((k) => k[2]);
}

// visible gives the rows to draw, with how deep they stand.
function visible(list) {
  const s = list.state;
  const find = s.find.toLowerCase();
  const filtered = find || s.gaps || s.changed;
  if (!list.tree || s.flat || filtered) {
    const kept = list.rows.filter((r) =>
      (!find || r.path.toLowerCase().includes(find) || list.functions && r.name.toLowerCase().includes(find)) &&
      (!s.gaps || list.tests.gaps(r)) && (!s.changed || list.tests.changed(r)));
    if (!list.functions) for (const r of kept) r.name = r.path;
    return { shown: sorted(list, kept).map((row) => [row, 0]), kept, filtered };
  }
  const shown = [];
  const walk = (node, depth) => {
    const children = s.sort === "path"
      ? [...sorted(list, node.children.filter((c) => c.children)), ...sorted(list, node.children.filter((c) => !c.children))]
      : sorted(list, node.children);
    for (const child of children) {
      shown.push([child, depth]);
      if (child.children && list.open.has(child.path)) walk(child, depth + 1);
    }
  };
  walk(list.tree, 0);
  return { shown, kept: list.rows, filtered };
}

function drawRows(list) {
  const s = list.state;
  $("filter").value = s.find;
  for (const [id, flag] of [["only-gaps", "gaps"], ["only-changed", "changed"], ["flat", "flat"]]) if ($(id)) $(id).checked = s[flag];
  for (const c of list.columns) {
    if (c.key === s.sort) c.head.setAttribute("aria-sort", s.down ? "descending" : "ascending");
    else c.head.removeAttribute("aria-sort");
  }
  const { shown, kept, filtered } = visible(list);
  const body = make("tbody");
  for (const [row, depth] of shown.slice(0, list.limit)) body.append(drawRow(list, row, depth));
  if (!list.functions && shown.length <= list.limit) {
    const sum = kept.reduce(addTo, {});
    sum.name = filtered ? "sum of these" : "total";
    const tr = drawRow(list, sum, 0, true);
    tr.className = "sum";
    body.append(tr);
  }
  list.table.tBodies[0].replaceWith(body);
  const rest = shown.length - list.limit;
  $("more").hidden = rest <= 0;
  $("more").textContent = `Show ${Math.min(rest, 4 * atOnce)} more of ${shown.length}`;
  if ($("fold")) {
    $("fold").textContent = list.open.size ? "Fold all" : "Unfold all";
    $("fold").disabled = Boolean(s.flat || filtered);
  }
  const n = kept.length;
  $("count").textContent = filtered && n === 0 ? `no ${list.noun[0]} matches` : filtered ? `${grouped(n)} of ${grouped(list.rows.length)} ${list.noun[1]}` : `${grouped(n)} ${list.noun[n === 1 ? 0 : 1]}`;
}

function drawRow(list, row, depth, plain) {
  const tr = make("tr");
  for (const column of list.columns) {
    const first = column.key === "path";
    const cell = make(first ? "th" : "td", first ? { scope: "row" } : { className: column.key + (column.metric ? " metric" : "") + (column.faint ? " faint" : "") + (column.text ? " text" : "") });
    if (first && plain) cell.append(row.name);
    else if (first && row.children) {
      const open = list.open.has(row.path);
      const button = make("button", { type: "button", className: "folder", "aria-expanded": String(open) }, ...breakable(row.name));
      button.addEventListener("click", () => {
        if (open) list.open.delete(row.path);
        else list.open.add(row.path);
        drawRows(list);
        [...list.table.querySelectorAll("button.folder")].find((b) => b.textContent === row.name && b.dataset.path === row.path)?.focus();
      });
      button.dataset.path = row.path;
      cell.append(button);
    } else cell.append(...[column.cell(row)].flat());
    if (first) cell.style.paddingLeft = `${depth * 1.1}rem`;
    tr.append(cell);
  }
  return tr;
}
