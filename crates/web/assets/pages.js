// Pages of a report beside each other, as they will be printed: how many there are, and a frame behind each.
const view = document.getElementById("pages");
const flow = view?.firstElementChild;

/** Counts the columns the text breaks into and puts a sheet behind each. */
function lay() {
  const gap = parseFloat(getComputedStyle(flow).columnGap);
  const wide = flow.clientWidth;
  const pages = Math.max(1, Math.round((flow.scrollWidth + gap) / (wide + gap)));
  view.querySelectorAll(".sheet").forEach((s) => s.remove());
  for (let n = 0; n < pages; n += 1) {
    const sheet = document.createElement("div");
    sheet.className = "sheet";
    sheet.style.left = `${n * (wide + gap)}px`;
    sheet.dataset.page = `${n + 1} / ${pages}`;
    flow.before(sheet);
  }
  document.getElementById("pages-said").textContent = `${pages} page${pages === 1 ? "" : "s"}, as they will be printed.`;
}

if (flow) {
  lay();
  document.fonts?.ready.then(lay);
  flow.addEventListener("load", lay, true);
}
