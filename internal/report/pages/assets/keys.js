// Keys, and the help on them.

function bootKeys() {
  keys.set("^", ["overview", () => document.querySelector("a.home").click(), "Pages"]);
  keys.set("*", ["light or dark", turnLook, "Pages"]);
  keys.set("?", ["this help", showKeys, "Pages"]);
}

document.addEventListener("keydown", (event) => {
  if (event.ctrlKey || event.altKey || event.metaKey || event.target.matches("input, textarea, select")) return;
  // What has the focus comes first: buttons and links for Enter, what scrolls for arrows.
  if (event.key === "Enter" && event.target.closest("button, a, summary")) return;
  if (event.key.startsWith("Arrow") && event.target.closest(".details, dialog, summary, [role=group]")) return;
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
  let group;
  for (const [key, [what, , of]] of keys) {
    if (of !== group) list.append(make("dt", { className: "group" }, (group = of)));
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
