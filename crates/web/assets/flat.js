// Placing things on a space laid flat: by a click, by dragging, or with the arrow keys.
(() => {
  const sheet = document.getElementById('flat');
  const placing = document.getElementById('placing');
  const moving = document.getElementById('moving');
  if (!sheet || !moving) return;
  const scale = Number(sheet.dataset.scale);
  const origin = Number(sheet.dataset.origin);
  const point = (event) => {
    const at = new DOMPoint(event.clientX, event.clientY).matrixTransform(sheet.getScreenCTM().inverse());
    return [at.x, at.y];
  };
  const meters = ([x, y]) => [x, y].map((v) => ((v - origin) / scale).toFixed(4));
  const send = (form, of, at) => {
    const [x, y] = meters(at);
    form.elements.of.value = of;
    form.elements.sheet_x.value = x;
    form.elements.sheet_y.value = y;
    form.requestSubmit();
  };

  // A click on a face places what is chosen.
  if (placing) {
    sheet.classList.add('placing');
    sheet.addEventListener('click', (event) => {
      if (event.target.closest('.token, .place')) return;
      send(placing, placing.elements.of.value, point(event));
    });
    // Typing a place is no click.
    placing.querySelector('button:not([name])').addEventListener('click', () => {
      placing.elements.sheet_x.value = '';
      placing.elements.sheet_y.value = '';
    });
  }

  // Dragging, of things and of what is built in.
  let held = null;
  const shift = (node, dx, dy) => node.setAttribute('transform', `translate(${dx} ${dy})`);
  const drop = (node, to) => {
    const form = node.dataset.thing ? placing : moving;
    send(form, node.dataset.thing ?? node.dataset.fixture, to);
  };
  sheet.addEventListener('dragstart', (event) => event.preventDefault());
  sheet.addEventListener('pointerdown', (event) => {
    const node = event.target.closest('.token, .fixture');
    if (!node) return;
    held = { node, from: point(event), far: false };
  });
  sheet.addEventListener('pointermove', (event) => {
    if (!held) return;
    const [x, y] = point(event);
    const [dx, dy] = [x - held.from[0], y - held.from[1]];
    if (!held.far && Math.hypot(dx, dy) < 4) return;
    held.far = true;
    sheet.setPointerCapture(event.pointerId);
    held.node.classList.add('moving');
    shift(held.node, dx, dy);
  });
  const middle = (node) => {
    if (node.dataset.x) return [Number(node.dataset.x), Number(node.dataset.y)];
    const box = node.querySelector('path').getBBox();
    return [box.x + box.width / 2, box.y + box.height / 2];
  };
  const end = (event) => {
    if (!held) return;
    const { node, from, far } = held;
    held = null;
    if (!far) return;
    const [x, y] = point(event);
    const [mx, my] = middle(node);
    // What follows a drag is no click on a link, nor on the sheet.
    sheet.addEventListener('click', (e) => { e.preventDefault(); e.stopImmediatePropagation(); }, { capture: true, once: true });
    drop(node, [mx + x - from[0], my + y - from[1]]);
  };
  sheet.addEventListener('pointerup', end);
  sheet.addEventListener('pointercancel', () => { if (held) { held.node.removeAttribute('transform'); held.node.classList.remove('moving'); } held = null; });

  // Arrow keys move what has the focus by a hand, with Shift by a finger; it is kept when the keys rest.
  let resting;
  sheet.addEventListener('keydown', (event) => {
    const node = event.target.closest('.token');
    const by = { ArrowLeft: [-1, 0], ArrowRight: [1, 0], ArrowUp: [0, -1], ArrowDown: [0, 1] }[event.key];
    if (!node || !by) return;
    event.preventDefault();
    event.stopPropagation();
    const step = scale * (event.shiftKey ? 0.02 : 0.1);
    node.moved = (node.moved ?? [0, 0]).map((v, i) => v + by[i] * step);
    shift(node, ...node.moved);
    clearTimeout(resting);
    resting = setTimeout(() => {
      const [x, y] = middle(node);
      sessionStorage.setItem('moved', node.dataset.thing);
      drop(node, [x + node.moved[0], y + node.moved[1]]);
    }, 700);
  });
  const last = sessionStorage.getItem('moved');
  sessionStorage.removeItem('moved');
  if (last) sheet.querySelector(`[data-thing="${CSS.escape(last)}"]`)?.focus();
})();
