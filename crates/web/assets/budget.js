// Blocks of a time table are dragged along the hours, and longer or shorter by their right end; the lines of the form follow.
(() => {
  const form = document.getElementById('time-table');
  if (!form) return;
  const field = (name) => form.elements[name];
  const begins = () => parseInt(field('begins').value, 10) || 0;
  const last = () => parseFloat(field('hours').value.replace(',', '.')) || 0;
  // Hours since the beginning, as they are typed.
  const typed = (hour) => {
    const minutes = Math.round((begins() + hour) * 60);
    const two = (n) => String(n).padStart(2, '0');
    return `${Math.floor(minutes / 1440) + 1} ${two(Math.floor(minutes / 60) % 24)}:${two(minutes % 60)}`;
  };
  const hour = (text) => {
    const [, day, h, m] = /^(\d+)\s+(\d+):(\d+)$/.exec(text.trim()) || [];
    return day === undefined ? NaN : (day - 1) * 24 + Number(h) + m / 60 - begins();
  };
  const quarter = (x) => Math.round(x * 4) / 4;
  const EDGE = 8;
  let held = null;
  document.addEventListener('pointerdown', (event) => {
    const bar = event.target.closest && event.target.closest('#result .bar[data-row]');
    if (!bar || event.button !== 0) return;
    const sheet = bar.closest('svg');
    const row = bar.dataset.row;
    const [from, until] = [hour(field(`from-${row}`).value), hour(field(`until-${row}`).value)];
    if (Number.isNaN(from) || Number.isNaN(until)) return;
    const scale = sheet.getBoundingClientRect().width / sheet.viewBox.baseVal.width;
    const rect = bar.querySelector('rect');
    const edge = rect.getBoundingClientRect().right - event.clientX < EDGE;
    held = { bar, rect, row, from, until, edge, x: event.clientX, px: Number(sheet.dataset.hour) * scale, width: Number(rect.getAttribute('width')), own: Number(sheet.dataset.hour) };
    event.preventDefault();
  });
  document.addEventListener('pointermove', (event) => {
    if (!held) return;
    let by = quarter((event.clientX - held.x) / held.px);
    by = held.edge
      ? Math.min(Math.max(by, held.from - held.until + 0.25), last() - held.until)
      : Math.min(Math.max(by, -held.from), last() - held.until);
    held.by = by;
    if (held.edge) held.rect.setAttribute('width', held.width + by * held.own);
    else held.bar.setAttribute('transform', `translate(${by * held.own} 0)`);
  });
  const drop = () => {
    if (!held) return;
    const { row, from, until, edge, by } = held;
    held = null;
    if (!by) return;
    if (!edge) field(`from-${row}`).value = typed(from + by);
    field(`until-${row}`).value = typed(until + by);
    form.dispatchEvent(new Event('input', { bubbles: true }));
  };
  document.addEventListener('pointerup', drop);
  document.addEventListener('pointercancel', () => { held = null; });
})();
