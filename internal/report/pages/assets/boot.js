// Making the page at hand answer. Everything works on the part of the address
// that comes after the page, so that every view can be linked to.

const $ = (id) => document.getElementById(id);

// make builds an element; text is never taken for markup.
function make(tag, properties = {}, ...children) {
  const element = document.createElement(tag);
  for (const [name, value] of Object.entries(properties)) {
    if (name.startsWith("aria-") || name === "role") element.setAttribute(name, value);
    else element[name] = value;
  }
  element.append(...children);
  return element;
}

function data() {
  const island = $("data");
  return island ? JSON.parse(island.textContent) : null;
}

function say(text) {
  $("said").textContent = text;
}

// keys that the page at hand answers to: key → [what it does, action].
let keys = new Map();

function boot() {
  keys = new Map();
  if ($("source")) bootFile();
  else if ($("table")) bootTable();
  if ($("filter")) keys.set("/", ["filter", () => $("filter").focus(), "Table"]);
  bootKeys();
}

document.addEventListener("DOMContentLoaded", () => {
  document.querySelector(".tools").hidden = false;
  bootLook();
  if (document.documentElement.dataset.single !== undefined) bootSingle();
  else boot();
});
