// Light or dark: as the system says, unless the reader says otherwise.

const remembered = "thrush.look";

function recall() {
  try { return localStorage.getItem(remembered); } catch { return null; }
}

function isDark() {
  const look = document.documentElement.dataset.look;
  return look ? look === "dark" : matchMedia("(prefers-color-scheme: dark)").matches;
}

const look = recall();
if (look === "dark" || look === "light") document.documentElement.dataset.look = look;

function turnLook() {
  const next = isDark() ? "light" : "dark";
  document.documentElement.dataset.look = next;
  try { localStorage.setItem(remembered, next); } catch { /* then only for this page */ }
  nameLook();
}

function nameLook() {
  $("look").textContent = isDark() ? "Light" : "Dark";
}

function bootLook() {
  $("look").addEventListener("click", turnLook);
  matchMedia("(prefers-color-scheme: dark)").addEventListener("change", nameLook);
  nameLook();
}
