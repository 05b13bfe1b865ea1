// One key to each place, outside of fields, and the card that lists them.
(() => {
  const card = document.getElementById('keys');
  const links = [...document.querySelectorAll('[data-go-key]')];
  const list = card.querySelector('dl');
  const row = (link) => {
    const div = document.createElement('div');
    div.className = list.firstElementChild.className;
    const dt = document.createElement('dt');
    const kbd = document.createElement('kbd');
    const dd = document.createElement('dd');
    kbd.textContent = link.dataset.goKey;
    dt.append(kbd);
    dd.textContent = link.textContent.trim();
    div.append(dt, dd);
    return div;
  };
  list.prepend(...links.map(row));
  document.getElementById('keys-open').addEventListener('click', () => card.showModal());
  document.addEventListener('keydown', (event) => {
    const typing = event.target.closest('input, textarea, select, [contenteditable]');
    if (typing || event.ctrlKey || event.altKey || event.metaKey || card.open) return;
    if (event.key === '?') {
      event.preventDefault();
      card.showModal();
      return;
    }
    links.find((link) => link.dataset.goKey === event.key)?.click();
  });
})();
