// Keys, and the help on them.

function bootKeys() {
  keys.set("t", ["turn light or dark", turnLook]);
  keys.set("o", ["go to the overview", () => document.querySelector("a.home").click()]);
  keys.set("?", ["show or close this help", showKeys]);
}

document.addEventListener("keydown", (event) => {
  if (event.ctrlKey || event.altKey || event.metaKey || event.target.matches("input, textarea, select")) return;
  const known = keys.get(event.key);
  if (!known) return;
  event.preventDefault();
  known[1]();
});

const shown = { "ArrowDown": "↓", "ArrowUp": "↑", "ArrowLeft": "←", "ArrowRight": "→" };

function showKeys() {
  const open = document.querySelector("dialog[open]");
  if (open) return open.close();
  const list = make("dl");
  for (const [key, [what]] of keys) {
    list.append(make("dt", {}, make("kbd", {}, shown[key] || key)), make("dd", {}, what));
  }
  const close = make("button", { type: "button" }, "Close");
  const dialog = make("dialog", { "aria-label": "Keys" }, make("h2", {}, "Keys"), list, close);
  close.addEventListener("click", () => dialog.close());
  dialog.addEventListener("close", () => dialog.remove());
  document.body.append(dialog);
  dialog.showModal();
}

document.addEventListener("click", (event) => {
  if (event.target.closest("#help")) showKeys();
});
