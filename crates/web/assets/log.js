// The log by hand: a stretch is brushed to zoom, a moment is clicked to mark it. Wheel, pinch and keys do what they do on a map.
(() => {
  const EARLIEST = 3600e3;
  // The one in view: at a desk, or on a phone.
  const chart = () => [...document.querySelectorAll("svg.log[data-from]")].find((svg) => svg.getBoundingClientRect().width > 0);
  const stamp = (ms) => new Date(ms).toISOString().slice(0, 16) + "Z";
  // By the clock of the practice, as a field holds it.
  const clock = (ms) => {
    const parts = { timeZone: chart().dataset.zone, dateStyle: "short", timeStyle: "short" };
    return new Intl.DateTimeFormat("sv-SE", parts).format(new Date(ms)).replace(" ", "T");
  };

  function field(svg) {
    const [left, right] = [Number(svg.dataset.left), Number(svg.dataset.right)];
    const box = svg.getBoundingClientRect();
    const scale = box.width / svg.viewBox.baseVal.width;
    return { from: Number(svg.dataset.from), until: Number(svg.dataset.until), x0: box.left + left * scale, x1: box.left + right * scale,
      left, right, scale };
  }
  const timeAt = (f, x) => f.from + (Math.min(Math.max(x, f.x0), f.x1) - f.x0) / (f.x1 - f.x0) * (f.until - f.from);

  // Another span: the page is asked for it, and what it answers takes the place of this one.
  let waits;
  function show(from, until, push) {
    const svg = chart();
    if (until - from < EARLIEST) {
      const middle = (from + until) / 2;
      [from, until] = [middle - EARLIEST / 2, middle + EARLIEST / 2];
    }
    const url = `${location.pathname}?space=${svg.dataset.space}&axis=${svg.dataset.axis}&from=${stamp(from)}&until=${stamp(until)}${svg.dataset.more}`;
    svg.dataset.from = from;
    svg.dataset.until = until;
    clearTimeout(waits);
    waits = setTimeout(async () => {
      const focused = document.activeElement === chart();
      await htmx.ajax("GET", url, { target: "#log", select: "#log", swap: "outerHTML" });
      history[push ? "pushState" : "replaceState"]({}, "", url);
      if (focused) chart()?.focus();
    }, push ? 0 : 180);
  }
  window.addEventListener("popstate", () => location.reload());
  function zoom(factor, around) {
    const svg = chart(), [from, until] = [Number(svg.dataset.from), Number(svg.dataset.until)];
    show(around - (around - from) * factor, around + (until - around) * factor, false);
  }
  function pan(share) {
    const svg = chart(), [from, until] = [Number(svg.dataset.from), Number(svg.dataset.until)];
    show(from + share * (until - from), until + share * (until - from), false);
  }

  // Fingers and the mouse.
  const down = new Map();
  let brush, pinch;
  function begin(e) {
    const svg = e.target.closest("svg.log[data-from]");
    if (!svg || e.button > 0) return;
    down.set(e.pointerId, e.clientX);
    if (down.size === 2) {
      const f = field(svg), xs = [...down.values()];
      pinch = { times: xs.map((x) => timeAt(f, x)) };
      drop();
      return;
    }
    const rect = document.createElementNS("http://www.w3.org/2000/svg", "rect");
    rect.setAttribute("class", "brush");
    brush = { svg, rect, start: e.clientX, moved: false };
  }
  function move(e) {
    if (!down.has(e.pointerId)) return;
    down.set(e.pointerId, e.clientX);
    if (!brush) return;
    const f = field(brush.svg);
    if (Math.abs(e.clientX - brush.start) > 5 && !brush.moved) {
      brush.moved = true;
      brush.svg.append(brush.rect);
    }
    const clamp = (x) => (Math.min(Math.max(x, f.x0), f.x1) - f.x0) / f.scale + f.left;
    const [a, b] = [clamp(brush.start), clamp(e.clientX)].sort((p, q) => p - q);
    for (const [k, v] of Object.entries({ x: a, width: b - a, y: brush.svg.dataset.top,
      height: brush.svg.dataset.bottom - brush.svg.dataset.top }))
      brush.rect.setAttribute(k, v);
    if (brush.moved) e.preventDefault();
  }
  function end(e) {
    if (!down.delete(e.pointerId)) return;
    if (pinch) {
      if (down.size === 0) pinch = undefined;
      else {
        // The moments under the fingers go where the fingers are now.
        const f = field(chart()), xs = [e.clientX, ...down.values()], [t0, t1] = pinch.times;
        const pace = (t1 - t0) / (xs[1] - xs[0] || 1);
        if (pace > 0) show(t0 - (xs[0] - f.x0) * pace, t0 + (f.x1 - xs[0]) * pace, true);
      }
      return;
    }
    if (!brush) return;
    const { svg, start, moved } = brush, f = field(svg);
    drop();
    if (moved) {
      const [a, b] = [timeAt(f, start), timeAt(f, e.clientX)].sort((p, q) => p - q);
      show(a, b, true);
    } else if (e.clientX >= f.x0 && e.clientX <= f.x1) mark(svg, timeAt(f, e.clientX), e.clientX);
  }
  function drop() {
    brush?.rect.remove();
    brush = undefined;
  }

  // New readings come in: the page follows where it shows the end of the log, and nobody is at work on it.
  let told;
  const follows = () => document.querySelector("#log:not(:has(a[rel=next]))") && !brush && document.getElementById("quick")?.hidden !== false
    && !document.activeElement?.closest("#mark");
  const log = document.querySelector("#log[data-told]");
  if (log) {
    const ears = new EventSource(log.dataset.told);
    ears.addEventListener("log", () => {
      clearTimeout(told);
      told = setTimeout(() => {
        if (document.visibilityState === "visible" && follows())
          htmx.ajax("GET", location.pathname + location.search, { target: "#log", select: "#log", swap: "outerHTML" });
      }, 800);
    });
  }

  // A moment is clicked: what happened then?
  function mark(svg, at, x) {
    const form = document.getElementById("mark");
    if (!form) return;
    form.elements.from.value = clock(at);
    form.elements.until.value = "";
    const quick = document.getElementById("quick");
    quick.querySelector("output").textContent = clock(at).replace("T", ", ");
    quick.hidden = false;
    const room = quick.parentElement.getBoundingClientRect();
    quick.style.left = `${Math.min(Math.max(x - room.left - 20, 0), room.width - quick.offsetWidth)}px`;
    quick.querySelector("button").focus({ preventScroll: true });
  }
  document.addEventListener("click", (e) => {
    const quick = document.getElementById("quick");
    const what = e.target.closest("[data-mark]");
    if (what) {
      const form = document.getElementById("mark");
      if (what.dataset.mark) {
        form.elements.what.value = what.dataset.mark;
        form.requestSubmit();
      } else {
        quick.hidden = true;
        form.closest("details").open = true;
        form.elements.what.focus();
      }
    } else if (quick && !quick.hidden && !e.target.closest("#quick, svg.log")) quick.hidden = true;
  });

  document.addEventListener("pointerdown", begin);
  document.addEventListener("pointermove", move, { passive: false });
  document.addEventListener("pointerup", end);
  document.addEventListener("pointercancel", (e) => { down.delete(e.pointerId); pinch = undefined; drop(); });
  document.addEventListener("wheel", (e) => {
    const svg = e.target.closest?.("svg.log[data-from]");
    // A page that is scrolled stays a page that is scrolled: the wheel zooms with Ctrl, or sideways.
    if (!svg || !(e.ctrlKey || e.deltaX)) return;
    e.preventDefault();
    if (e.ctrlKey) zoom(Math.exp(Math.max(-60, Math.min(60, e.deltaY)) / 150), timeAt(field(svg), e.clientX));
    else pan(e.deltaX / 800);
  }, { passive: false });
  document.addEventListener("keydown", (e) => {
    const svg = e.target.closest?.("svg.log[data-from]");
    if (e.key === "Escape") { document.getElementById("quick")?.setAttribute("hidden", ""); drop(); }
    if (!svg || e.altKey || e.ctrlKey || e.metaKey) return;
    const f = field(svg), middle = (f.from + f.until) / 2;
    const does = { ArrowLeft: () => pan(-0.25), ArrowRight: () => pan(0.25), "+": () => zoom(0.5, middle), "-": () => zoom(2, middle),
      ArrowUp: () => zoom(0.5, middle), ArrowDown: () => zoom(2, middle), Enter: () => mark(svg, middle, (f.x0 + f.x1) / 2) }[e.key];
    if (!does) return;
    e.preventDefault();
    does();
  });
})();

// The mean day of the air, run through on demand.
document.querySelectorAll("[data-day]").forEach((button) => {
  button.hidden = !document.querySelector(".runner");
  const words = button.textContent;
  let runs = false;
  button.addEventListener("click", () => {
    runs = !runs;
    document.querySelectorAll(".runner").forEach((dot) => {
      dot.setAttribute("r", runs ? 8 : 0);
      const way = dot.firstElementChild;
      if (runs) way.beginElement(); else way.endElement();
    });
    button.textContent = runs ? "Stop" : words;
  });
});

// The drawing as a picture, twice as fine as it is shown.
document.addEventListener("click", async (e) => {
  const button = e.target.closest("[data-png]");
  if (!button) return;
  const picture = new Image();
  picture.src = URL.createObjectURL(await (await fetch(button.dataset.png)).blob());
  await picture.decode();
  const canvas = Object.assign(document.createElement("canvas"), { width: 2 * picture.width, height: 2 * picture.height });
  canvas.getContext("2d").drawImage(picture, 0, 0, canvas.width, canvas.height);
  URL.revokeObjectURL(picture.src);
  Object.assign(document.createElement("a"), { href: canvas.toDataURL("image/png"), download: "log.png" }).click();
});
const offer = () => document.querySelectorAll("[data-png]").forEach((button) => { button.hidden = false; });
offer();
document.addEventListener("htmx:afterSettle", offer);
