// Small things the server cannot do: the keypad, the print button, the entry's unit switch. Everything works without it.
(() => {
  const entry = document.querySelector('form[data-keypad]');

  const type = (input, key) => {
    if (key === 'erase') input.value = input.value.slice(0, -1);
    else if (key === '−') input.value = input.value.startsWith('-') ? input.value.slice(1) : '-' + input.value;
    else if (key === 'unit') input.value = switched(input.value);
    else input.value += key;
    input.dispatchEvent(new Event('input', { bubbles: true }));
  };

  // 18.2 → 18.2F → 18.2C → 18.2: says which unit this one entry is in.
  const switched = (text) => {
    if (/f$/i.test(text)) return text.slice(0, -1) + 'C';
    if (/c$/i.test(text)) return text.slice(0, -1);
    return text === '' ? text : text + 'F';
  };

  if (entry) {
    const inputs = [...entry.querySelectorAll('.box input')];
    let current = inputs[0];
    // With the keypad in view the phone's own keyboard would only cover it.
    if (matchMedia('(pointer: coarse)').matches) inputs.forEach((i) => i.setAttribute('inputmode', 'none'));
    inputs.forEach((input) => input.addEventListener('focus', () => { current = input; mark(); }));
    const mark = () => inputs.forEach((i) => i.closest('.box').classList.toggle('current', i === current));
    entry.querySelectorAll('[data-key]').forEach((button) => button.addEventListener('click', () => {
      type(current, button.dataset.key);
      current.focus();
    }));
    // "Keep, next" goes on to an empty second figure before it sends.
    entry.addEventListener('submit', (event) => {
      const empty = inputs.find((i) => i.value.trim() === '');
      if (empty && empty !== inputs[0] && inputs[0].value.trim() !== '' && document.activeElement !== empty && current !== empty) {
        event.preventDefault();
        current = empty;
        empty.focus();
      }
    });
    mark();
    // A form that came back keeps its typing: go on at its end.
    current.setSelectionRange(current.value.length, current.value.length);
  }

  document.querySelectorAll('[data-print]').forEach((button) => button.addEventListener('click', () => window.print()));
})();
