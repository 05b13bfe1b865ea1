// Walking with a meter: each figure is kept on this device at once and sent when somebody answers; the next place lights up.
(() => {
  const form = document.getElementById('walk');
  if (!form) return;
  const SVG = 'http://www.w3.org/2000/svg';
  const pairs = form.dataset.stops.split(' ').filter(Boolean).map(Number);
  const stops = Array.from({ length: pairs.length / 2 }, (_, i) => [pairs[2 * i], pairs[2 * i + 1]]);
  const labels = form.dataset.labels.split('|');
  const [dry, high, goal, wet] = form.dataset.limits.split(' ').map(Number);
  const refusals = form.dataset.refusals.split('\n').filter(Boolean).map((line) => line.match(/^(\S+) (\S+) (.*)$/).slice(1));
  const field = (name) => form.elements[name];
  const input = field('figure');
  const said = document.getElementById('walk-said');
  const here = document.getElementById('walk-here');
  const count = document.getElementById('walk-count');
  const sheet = document.getElementById('flat');
  const layer = document.getElementById('walk-stops');
  const falsely = document.getElementById('walk-false');
  const who = document.documentElement.dataset.who;
  const key = () => `walk ${location.pathname} ${field('space').value} ${field('route').value} ${field('every').value}`;
  // What the hand set: every figure so far, and which place is next.
  let figures = field('figures').value.split(/\s+/).filter(Boolean);
  let next = figures.length;

  const apart = stops.length > 1 ? Math.min(...stops.slice(1, 40).map((s, i) => Math.hypot(s[0] - stops[i][0], s[1] - stops[i][1]))) : 20;
  const radius = Math.min(Math.max(apart * 0.45, 2.2), 8);
  const dots = stops.map(([x, y]) => {
    const dot = document.createElementNS(SVG, 'circle');
    dot.setAttribute('cx', x);
    dot.setAttribute('cy', y);
    layer.append(dot);
    return dot;
  });
  const look = (token) => {
    if (token === undefined) return 'open';
    const [figure, mark] = token.split('!');
    if (mark !== undefined) return 'unread';
    if (figure === '-') return 'unread';
    if (figure === '>' || /^ol$/i.test(figure)) return 'high';
    const x = Number(figure.replace(',', '.'));
    const standard = Number(field('standard').value.replace(',', '.'));
    const limits = field('scale').value === 'pins' ? [goal, wet] : standard > 0 ? [standard * dry / 100, standard * high / 100] : null;
    if (!limits) return 'untold';
    return x <= limits[0] ? 'dry' : x >= limits[1] ? 'high' : 'raised';
  };
  const paint = (i) => {
    const kind = i === next ? 'next' : look(figures[i]);
    dots[i].setAttribute('class', `place ${kind}`);
    dots[i].setAttribute('r', i === next ? Math.max(radius * 1.8, 6) : kind === 'high' ? radius * 1.5 : radius);
  };
  // Near: some steps around the next place fill the drawing.
  let near = matchMedia('(max-width: 30rem)').matches;
  const whole = sheet.getAttribute('viewBox');
  const view = () => {
    const at = stops[Math.min(next, stops.length - 1)];
    const box = whole.split(' ').map(Number);
    const width = Math.min(box[2], Math.max(apart * 26, 120));
    const height = width * 0.62;
    sheet.setAttribute('viewBox', near && at ? `${at[0] - width / 2} ${at[1] - height / 2} ${width} ${height}` : whole);
    document.getElementById('walk-zoom').textContent = near ? 'Whole space' : 'Near';
  };
  const tell = () => {
    count.textContent = `${Math.min(next, stops.length)} of ${stops.length}`;
    here.textContent = next < stops.length ? `${next + 1}: ${labels[next]}` : stops.length ? 'All places of this way are read.' : '';
    input.placeholder = figures[next] ?? 'figure';
    view();
  };
  const all = () => { dots.forEach((_, i) => paint(i)); tell(); };

  const why = () => refusals.find(([scale, material]) => scale === field('scale').value && material === field('material').value)?.[2];
  const refused = document.getElementById('refused');
  const setup = () => {
    const reason = why();
    refused.hidden = !reason;
    if (reason) refused.querySelector('.why').textContent = reason;
    document.getElementById('species-field').hidden = field('scale').value !== 'pins';
    all();
  };

  // Kept on the device first; what waits of this walk is one entry that grows.
  // One after another: two at once would make two entries, and the older one would be sent last.
  let kept = Promise.resolve();
  const keep = () => { kept = kept.then(store, store); return kept; };
  const store = async () => {
    field('figures').value = figures.join(' ');
    const fields = new URLSearchParams(new FormData(form));
    fields.delete('figure');
    fields.delete('csrf');
    const body = fields.toString();
    const url = new URL(form.action).pathname;
    const mine = (await outbox.all()).find((item) => item.url === url && new URLSearchParams(item.body).get('id') === field('id').value);
    await outbox.say(key(), { id: field('id').value, body, at: Date.now() });
    await outbox.put({ url, at: Date.now(), who, said: '', ...mine, body, state: 'waiting' });
    clearTimeout(store.soon);
    store.soon = setTimeout(() => document.dispatchEvent(new Event('gutteral:kept')), 900);
  };

  const FIGURE = /^(\d+([.,]\d+)?|-|>|ol)(![a-z_]+)?$/i;
  const take = async (text) => {
    if (why() && !field('reason').value.trim()) {
      form.querySelector('.setup').open = true;
      field('reason').focus();
      said.textContent = 'Say why the meter is used here all the same.';
      return;
    }
    const tokens = text.trim().split(/\s+/).filter(Boolean).flatMap((token) => {
      const [one, times] = token.split('*');
      return Array.from({ length: times === undefined ? 1 : Math.min(Math.max(Number.parseInt(times, 10) || 0, 0), stops.length) }, () => one);
    });
    const wrong = tokens.find((token) => !FIGURE.test(token));
    if (!tokens.length || wrong !== undefined) {
      said.textContent = wrong === undefined ? 'Type what the meter shows.' : `“${wrong}” is no figure. Use - where nothing reads, > beyond the scale.`;
      return;
    }
    if (next + tokens.length > stops.length) {
      said.textContent = `This way has ${stops.length - next} more ${stops.length - next === 1 ? 'place' : 'places'}.`;
      return;
    }
    const from = next;
    tokens.forEach((token, i) => { figures[next + i] = token; });
    next += tokens.length;
    input.value = '';
    falsely.value = '';
    for (let i = from; i < Math.min(next + 1, stops.length); i += 1) paint(i);
    said.textContent = `${labels[next - 1]}: ${tokens.at(-1)}`;
    tell();
    await keep();
    form.querySelector('.setup').open = false;
  };
  form.addEventListener('submit', (event) => { event.preventDefault(); event.stopPropagation(); take(input.value); });
  form.querySelectorAll('[data-figure]').forEach((button) => button.addEventListener('click', () => { take(button.dataset.figure); input.focus(); }));
  document.getElementById('walk-back').addEventListener('click', () => {
    if (next === 0) return;
    next -= 1;
    [next, next + 1].filter((i) => i < stops.length).forEach(paint);
    said.textContent = `Again: ${labels[next]}`;
    tell();
    input.focus();
  });
  document.getElementById('walk-zoom').addEventListener('click', () => { near = !near; view(); });
  falsely.addEventListener('change', async () => {
    if (next === 0) return;
    const [figure] = figures[next - 1].split('!');
    figures[next - 1] = falsely.value ? `${figure}!${falsely.value}` : figure;
    paint(next - 1);
    said.textContent = falsely.value ? `Left out: ${falsely.selectedOptions[0].textContent}` : 'It counts.';
    await keep();
    input.focus();
  });
  document.getElementById('walk-anew').addEventListener('click', async () => {
    await outbox.say(key(), null);
    const to = new URL(location.href);
    to.searchParams.delete('map');
    location.href = to;
  });
  ['scale', 'material', 'standard', 'species', 'instrument'].forEach((name) => field(name).addEventListener('change', () => {
    setup();
    if (figures.length) keep();
  }));

  // A copy without a signal goes on where this device left off.
  (async () => {
    const begun = await outbox.about(key());
    const fields = begun && new URLSearchParams(begun.body);
    const stored = figures.length;
    const own = new URLSearchParams(location.search).get('map');
    const waits = begun && (await outbox.all()).some((item) => new URLSearchParams(item.body).get('id') === begun.id);
    const mine = fields?.get('figures')?.split(' ') ?? [];
    if (fields && (own ? own === begun.id : waits || (!stored && Date.now() - begun.at < 6 * 3600 * 1000 && mine.length < stops.length)) && mine.length >= stored) {
      for (const [name, value] of fields) if (field(name) && name !== 'figure') field(name).value = value;
      figures = mine;
      next = figures.length;
    }
    setup();
    input.focus();
  })();
})();
