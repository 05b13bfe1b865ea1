// A drying round on a phone: what is typed stays on this device until it is sent; Enter goes on to the next figure.
(() => {
  const form = document.getElementById('drying-round');
  if (!form) return;
  const key = `drying ${location.pathname}${location.search}`;
  const id = form.elements.id;
  const count = document.getElementById('round-count');
  const figures = [...form.querySelectorAll('input[inputmode]')];
  const tell = () => { count.textContent = `${figures.filter((f) => f.value.trim() && !f.name.startsWith('rh.')).length} of ${figures.filter((f) => !f.name.startsWith('rh.')).length}`; };

  // One after another: the last thing typed is the last thing kept.
  let kept = Promise.resolve();
  const keep = () => {
    const typed = Object.fromEntries(figures.filter((f) => f.value.trim()).map((f) => [f.name, f.value]));
    kept = kept.then(() => outbox.say(key, { id: id.value, typed, at: Date.now() })).catch(() => {});
  };
  form.addEventListener('input', () => { tell(); keep(); });
  form.addEventListener('keydown', (event) => {
    const at = figures.indexOf(event.target);
    if (event.key !== 'Enter' || at < 0 || at === figures.length - 1) return;
    event.preventDefault();
    figures[at + 1].focus();
    figures[at + 1].select();
  });
  // Sent it is with the server, or waits in the outbox: this draft is done.
  form.addEventListener('submit', () => { outbox.say(key, null); });

  // A round left an hour ago goes on where it was left, under its own id; one the server has already is not begun again.
  (async () => {
    const begun = await outbox.about(key);
    const empty = figures.every((f) => f.value === '');
    if (begun && empty && Date.now() - begun.at < 12 * 3600 * 1000) {
      id.value = begun.id;
      figures.forEach((f) => { f.value = begun.typed[f.name] ?? ''; });
    }
    tell();
  })();
})();
