// The clock of the first coat: counts down to the second, and to when it is too late.
(() => {
  const said = document.getElementById('coat-said');
  const [from, until] = [Number(said?.dataset.from), Number(said?.dataset.until)];
  if (!said || !until || Date.now() > until) return;
  const left = (ms) => `${Math.floor(ms / 60000)}:${String(Math.floor(ms / 1000) % 60).padStart(2, '0')}`;
  let rang = Date.now() >= from;
  const tick = () => {
    const now = Date.now();
    if (now > until) { location.reload(); return; }
    if (now >= from && !rang) { rang = true; navigator.vibrate?.(400); }
    said.textContent = now < from ? `Second coat in ${left(from - now)}.` : `Now: the second coat, ${left(until - now)} left.`;
    setTimeout(tick, 500);
  };
  tick();
})();
