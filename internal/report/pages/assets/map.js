// The map: nested rectangles, as large as the code, filled from below by the
// share that ran. The layout keeps rectangles as square as it can, row by row
// (Bruls, Huizing, van Wijk: Squarified Treemaps, 2000).

const smallest = 7; // pixels; what is smaller is drawn with its folder

function bootMap(list) {
  const area = $("map-area");
  if (!list.tree["of:lines"]) return;
  document.querySelector("section.map").hidden = false;
  const map = { area, tree: list.tree, at: list.tree, list };
  area.addEventListener("keydown", (e) => moveInMap(map, e));
  for (const kind of ["pointerover", "focusin"]) {
    area.addEventListener(kind, (e) => { const c = e.target.closest("a"); if (c) $("map-says").textContent = c.getAttribute("aria-label"); });
  }
  let width = 0;
  new ResizeObserver(() => {
    if (area.isConnected && area.clientWidth !== width) { width = area.clientWidth; drawMap(map); }
  }).observe(area);
}

function drawMap(map) {
  const { area, at } = map;
  const path = $("map-path");
  path.replaceChildren();
  const way = [map.tree];
  for (let node = map.tree; node !== at;) {
    node = node.children.find((c) => c.children && at.path.startsWith(c.path));
    way.push(node);
  }
  for (const node of way) {
    const name = node === map.tree ? "all" : node.name;
    if (node === at) path.append(make("b", {}, name));
    else {
      const button = make("button", { type: "button" }, name);
      button.addEventListener("click", () => enter(map, node));
      path.append(button, " ");
    }
  }
  area.replaceChildren();
  place(map, at, 0, 0, area.clientWidth, area.clientHeight, area);
  const first = area.querySelector("a");
  if (first) first.tabIndex = 0;
  $("map-says").textContent = sentence(at, at === map.tree ? "everything" : at.path);
}

function enter(map, node) {
  map.at = node;
  drawMap(map);
  map.area.querySelector("a")?.focus();
}

function sentence(node, name) {
  return `${name} ${percent(node.lines, node["of:lines"])}: ${grouped(node.lines)} of ${grouped(node["of:lines"])} lines ran`;
}

// place draws a folder's children into a rectangle.
function place(map, node, x, y, width, height, into) {
  const children = node.children.filter((c) => c["of:lines"] > 0).sort((a, b) => b["of:lines"] - a["of:lines"] || (a.path < b.path ? -1 : 1));
  const scale = width * height / node["of:lines"];
  for (const [child, cx, cy, cw, ch] of squares(children.map((c) => [c, c["of:lines"] * scale]), x, y, width, height)) {
    if (cw < smallest || ch < smallest) {
      if (cw > 1.5 && ch > 1.5) into.append(rectangle(map, child, cx, cy, cw, ch, false));
      continue;
    }
    if (child.children && cw > 60 && ch > 44) {
      const label = rectangle(map, child, cx, cy, cw, 18, true);
      label.className = "head";
      into.append(label);
      place(map, child, cx + 1, cy + 18, cw - 3, ch - 20, into);
    } else into.append(rectangle(map, child, cx, cy, cw, ch, true));
  }
}

// squares lays out sizes in a rectangle.
function squares(items, x, y, width, height) {
  const out = [];
  let i = 0;
  while (i < items.length) {
    const side = Math.min(width, height);
    let row = [], sum = 0, worst = Infinity;
    for (; i < items.length; i++) {
      const size = items[i][1], total = sum + size;
      const thick = total / side;
      const largest = Math.max(size, ...row.map((r) => r[1])), least = Math.min(size, ...row.map((r) => r[1]));
      const ratio = Math.max(thick * thick / least, largest / (thick * thick));
      if (row.length && ratio > worst) break;
      row.push(items[i]);
      sum = total;
      worst = ratio;
    }
    const thick = side > 0 ? sum / side : 0;
    let along = 0;
    for (const [item, size] of row) {
      const length = thick ? size / thick : 0;
      out.push(width >= height ? [item, x, y + along, thick, length] : [item, x + along, y, length, thick]);
      along += length;
    }
    if (width >= height) { x += thick; width -= thick; } else { y += thick; height -= thick; }
  }
  return out;
}

function rectangle(map, node, x, y, width, height, reachable) {
  const cell = make("a", { href: node.href || "#", "aria-label": sentence(node, node.path), tabIndex: -1 });
  if (!reachable) cell.setAttribute("aria-hidden", "true");
  // In shares of the area, so that the map fits a printed page too.
  const across = (n) => `${100 * n / map.area.clientWidth}%`, down = (n) => `${100 * n / map.area.clientHeight}%`;
  Object.assign(cell.style, { left: across(x), top: down(y), width: `calc(${across(width)} - 2px)`, height: `calc(${down(height)} - 2px)` });
  if (node.lines) {
    const fill = make("i");
    fill.style.height = `${100 * node.lines / node["of:lines"]}%`;
    cell.append(fill);
  }
  if (width > 44 && height > 15) cell.append(make("span", {}, node.name));
  if (width > 60 && height > 34 && !node.children) cell.append(" ", make("small", {}, percent(node.lines, node["of:lines"])));
  if (node.children) cell.addEventListener("click", (e) => { e.preventDefault(); enter(map, node); });
  return cell;
}

// moveInMap goes to the nearest rectangle in the direction of an arrow.
function moveInMap(map, event) {
  if (event.key === "Backspace" && map.at !== map.tree) {
    const up = map.at.path.replace(/[^/]*\/$/, "");
    let node = map.tree;
    for (let next = node; next && next.path.length <= up.length;) {
      node = next;
      next = node.children.find((c) => c.children && up.startsWith(c.path));
    }
    event.preventDefault();
    return enter(map, node);
  }
  const step = { ArrowLeft: [-1, 0], ArrowRight: [1, 0], ArrowUp: [0, -1], ArrowDown: [0, 1] }[event.key];
  const from = document.activeElement;
  if (!step || from.parentNode !== map.area) return;
  event.preventDefault();
  const centre = (e) => [e.offsetLeft + e.offsetWidth / 2, e.offsetTop + e.offsetHeight / 2];
  const [x, y] = centre(from);
  let best = null, least = Infinity;
  for (const cell of map.area.children) {
    if (cell === from || cell.getAttribute("aria-hidden")) continue;
    const [cx, cy] = centre(cell);
    const ahead = (cx - x) * step[0] + (cy - y) * step[1], aside = Math.abs((cx - x) * step[1]) + Math.abs((cy - y) * step[0]);
    if (ahead > 1 && ahead + 2 * aside < least) { least = ahead + 2 * aside; best = cell; }
  }
  if (!best) return;
  from.tabIndex = -1;
  best.tabIndex = 0;
  best.focus();
}
