// The part of the address after the page: "L12" or "find=fare/&sort=left".

const single = () => document.documentElement.dataset.single !== undefined;

function part() {
  const hash = decodeURIComponent(location.hash.slice(1));
  if (!single()) return hash;
  const colon = hash.indexOf(":");
  return colon < 0 ? "" : hash.slice(colon + 1);
}

function setPart(text) {
  const before = single() ? pageName() : "";
  const after = text && before ? ":" + text : text;
  history.replaceState(history.state, "", before || after ? "#" + encodeURI(before + after) : location.pathname + location.search);
}

function pageName() {
  const name = decodeURIComponent(location.hash.slice(1)).split(":")[0];
  return name.endsWith(".html") ? name : "index.html";
}
