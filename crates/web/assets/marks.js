// Arrows and circles over a picture: drawn by dragging or by keys, kept as figures in the form.
(() => {
  const stage = document.getElementById('stage');
  const form = document.getElementById('about');
  if (!stage || !form) return;
  const shot = stage.querySelector('.shot');
  const tall = Number(stage.dataset.tall);
  const list = document.getElementById('marks');
  const marks = JSON.parse(form.dataset.marks || '[]');
  const SVG = 'http://www.w3.org/2000/svg';
  let tool = null;
  let chosen = -1;
  document.getElementById('marking').hidden = false;
  shot.querySelector('svg')?.remove();
  const svg = document.createElementNS(SVG, 'svg');
  svg.setAttribute('viewBox', `0 0 1000 ${tall}`);
  svg.setAttribute('class', 'marks absolute inset-0 h-full w-full overflow-visible');
  shot.append(svg);

  const put = (parent, name, attributes, text) => {
    const node = document.createElementNS(SVG, name);
    Object.entries(attributes).forEach(([k, v]) => node.setAttribute(k, v));
    if (text) node.textContent = text;
    parent.append(node);
  };
  const within = (x, most) => Math.min(Math.max(Math.round(x), 0), most);
  const point = (event) => {
    const box = svg.getBoundingClientRect();
    return [within((event.clientX - box.left) / box.width * 1000, 1000), within((event.clientY - box.top) / box.height * tall, tall)];
  };
  const draw = () => {
    svg.replaceChildren();
    marks.forEach((mark, i) => {
      const g = document.createElementNS(SVG, 'g');
      if (i === chosen) g.setAttribute('class', 'chosen');
      svg.append(g);
      let at;
      let left;
      let down = 10;
      if (mark.kind === 'arrow') {
        const line = { x1: mark.from[0], y1: mark.from[1], x2: mark.to[0], y2: mark.to[1] };
        put(g, 'line', { ...line, class: 'halo' });
        put(g, 'line', { ...line, 'marker-end': 'url(#mark-head)' });
        at = mark.from;
        left = at[0] > 700 || (at[0] < mark.to[0] && at[0] > 250);
        down = mark.to[1] < at[1] ? 42 : -16;
      } else {
        const circle = { cx: mark.at[0], cy: mark.at[1], r: mark.r };
        put(g, 'circle', { ...circle, class: 'halo' });
        put(g, 'circle', circle);
        left = mark.at[0] + mark.r > 700;
        at = [left ? mark.at[0] - mark.r : mark.at[0] + mark.r, mark.at[1]];
      }
      if (mark.words) put(g, 'text', { x: at[0], y: at[1], dx: left ? -14 : 14, dy: down, class: left ? 'left' : '' }, mark.words);
    });
    form.elements.marks.value = JSON.stringify(marks);
  };
  const lines = () => {
    list.replaceChildren(...marks.map((mark, i) => {
      const li = document.createElement('li');
      const words = document.createElement('input');
      words.value = mark.words ?? '';
      words.maxLength = Number(list.dataset.longest);
      words.setAttribute('aria-label', `${mark.kind} ${i + 1}: words`);
      words.placeholder = `${mark.kind}: words`;
      words.addEventListener('input', () => { mark.words = words.value; draw(); });
      words.addEventListener('focus', () => { chosen = i; draw(); });
      words.addEventListener('keydown', (event) => key(event, mark));
      const remove = document.createElement('button');
      remove.type = 'button';
      remove.className = 'plain text-soft';
      remove.textContent = 'Remove';
      remove.setAttribute('aria-label', `Remove ${mark.kind} ${i + 1}`);
      remove.addEventListener('click', () => { marks.splice(i, 1); chosen = -1; lines(); draw(); });
      li.append(words, remove);
      return li;
    }));
  };
  // Arrow keys with Alt, or in an empty line of words, move the mark; with Shift they change its size.
  const key = (event, mark) => {
    const by = { ArrowLeft: [-10, 0], ArrowRight: [10, 0], ArrowUp: [0, -10], ArrowDown: [0, 10] }[event.key];
    if (event.key === 'Enter') { event.preventDefault(); return; }
    if (!by || (event.target.value && !event.altKey)) return;
    event.preventDefault();
    const shift = (p) => { p[0] = within(p[0] + by[0], 1000); p[1] = within(p[1] + by[1], tall); };
    if (mark.kind === 'circle') {
      if (event.shiftKey) mark.r = Math.min(Math.max(mark.r + by[0] - by[1], 10), 500);
      else shift(mark.at);
    } else {
      shift(mark.to);
      if (!event.shiftKey) shift(mark.from);
    }
    draw();
  };
  const choose = (name) => {
    tool = name;
    stage.classList.toggle('drawing', Boolean(tool));
    document.querySelectorAll('[data-draw]').forEach((b) => b.setAttribute('aria-pressed', String(b.dataset.draw === tool)));
  };
  const add = (mark) => { marks.push(mark); chosen = marks.length - 1; lines(); draw(); };
  document.querySelectorAll('[data-draw]').forEach((button) => button.addEventListener('click', (event) => {
    // A press of Enter has no place on the picture: the mark begins in its middle.
    if (event.detail === 0) {
      const middle = [500, Math.round(tall / 2)];
      add(button.dataset.draw === 'arrow' ? { kind: 'arrow', from: [350, middle[1] - 100], to: middle, words: '' } : { kind: 'circle', at: middle, r: 100, words: '' });
      list.lastElementChild.querySelector('input').focus();
    } else choose(tool === button.dataset.draw ? null : button.dataset.draw);
  }));
  let drawn = null;
  svg.addEventListener('pointerdown', (event) => {
    if (!tool) return;
    event.preventDefault();
    svg.setPointerCapture(event.pointerId);
    const at = point(event);
    drawn = tool === 'arrow' ? { kind: 'arrow', from: at, to: at, words: '' } : { kind: 'circle', at, r: 1, words: '' };
    marks.push(drawn);
    chosen = marks.length - 1;
  });
  svg.addEventListener('pointermove', (event) => {
    if (!drawn) return;
    const to = point(event);
    if (drawn.kind === 'arrow') drawn.to = to;
    else drawn.r = Math.max(1, Math.round(Math.hypot(to[0] - drawn.at[0], to[1] - drawn.at[1])));
    draw();
  });
  const end = () => {
    if (!drawn) return;
    // A mere tap is no mark.
    const size = drawn.kind === 'arrow' ? Math.hypot(drawn.to[0] - drawn.from[0], drawn.to[1] - drawn.from[1]) : drawn.r;
    if (size < 15) { marks.pop(); chosen = -1; }
    drawn = null;
    choose(null);
    lines();
    draw();
    list.lastElementChild?.querySelector('input').focus();
  };
  svg.addEventListener('pointerup', end);
  svg.addEventListener('pointercancel', end);
  lines();
  draw();
})();
