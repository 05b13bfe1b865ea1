// Pictures: several at once, dropped from the computer, or dragged from one place to another.
(() => {
  const upload = document.querySelector('form[data-photo]');
  const move = document.getElementById('move');
  if (!upload) return;
  const input = upload.elements.photo;
  // The outbox takes any number, one after the other; a plain form sends one.
  const ready = () => { input.multiple = Boolean(navigator.serviceWorker?.controller); };
  ready();
  navigator.serviceWorker?.addEventListener('controllerchange', ready);
  if ('now' in upload.dataset) input.addEventListener('change', () => { if (input.files.length) upload.requestSubmit(); });

  let dragged = null;
  document.addEventListener('dragstart', (event) => { dragged = event.target.closest?.('[data-photo-id]') ?? null; });
  document.addEventListener('dragend', () => { dragged = null; mark(null); });
  const mark = (place) => document.querySelectorAll('[data-drop]').forEach((p) => p.classList.toggle('over', p === place));
  const files = (event) => [...(event.dataTransfer?.types ?? [])].includes('Files');
  document.addEventListener('dragover', (event) => {
    const place = event.target.closest?.('[data-drop]');
    // A file dropped beside a line would open in the browser's place and what was typed be gone.
    if (!dragged && !files(event)) return;
    event.preventDefault();
    mark(place);
  });
  document.addEventListener('drop', (event) => {
    const place = event.target.closest?.('[data-drop]');
    if (!dragged && !files(event)) return;
    event.preventDefault();
    mark(null);
    if (!place) return;
    if (dragged) {
      move.action = dragged.getAttribute('href');
      move.elements.place.value = place.dataset.drop;
      move.elements.where.value = dragged.dataset.name;
      move.requestSubmit();
      return;
    }
    const list = new DataTransfer();
    [...event.dataTransfer.files].slice(0, input.multiple ? undefined : 1).forEach((f) => list.items.add(f));
    if (!list.files.length) return;
    input.files = list.files;
    upload.elements.place.value = place.dataset.drop;
    upload.requestSubmit();
  });
})();
