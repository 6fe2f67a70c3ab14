// All pages in one file: the address says which is shown.

function bootSingle() {
  const main = $("main");
  const first = document.createDocumentFragment();
  first.append(...main.childNodes);
  const pages = new Map([["index.html", { copy: () => first.cloneNode(true), title: document.title }]]);
  for (const t of document.querySelectorAll("template[data-page]")) {
    pages.set(t.dataset.page, { copy: () => t.content.cloneNode(true), title: t.dataset.title });
  }
  let at = null;
  const show = () => {
    const name = pages.has(pageName()) ? pageName() : "index.html";
    if (name !== at) {
      at = name;
      main.replaceChildren(pages.get(name).copy());
      document.title = pages.get(name).title;
      for (const a of document.querySelectorAll("header.top nav a")) {
        a.toggleAttribute("aria-current", a.getAttribute("href") === "#" + name);
        if (a.hasAttribute("aria-current")) a.setAttribute("aria-current", "page");
      }
      scrollTo(0, 0);
      boot();
    }
    document.querySelector(".nowhere")?.remove();
    if (pageName() && !pages.has(pageName())) {
      main.prepend(make("p", { className: "warning nowhere" }, `This file has no page ${pageName()}; this is the overview.`));
    }
    const target = part() && document.getElementById(part());
    if (target) target.scrollIntoView();
  };
  addEventListener("hashchange", show);
  // Addresses within a page, such as #L12, do not say which page they mean.
  document.addEventListener("click", (event) => {
    const link = event.target.closest("a[href^='#']");
    if (!link || link.getAttribute("href").includes(".html")) return;
    event.preventDefault();
    const id = link.getAttribute("href").slice(1);
    setPart(id);
    $(id)?.scrollIntoView();
    if ($(id)?.matches("tr")) choose($(id));
  });
  show();
}
