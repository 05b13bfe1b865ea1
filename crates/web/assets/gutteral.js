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
    // Instruments that need to settle count down from when they are put in place.
    const settle = document.getElementById('settle');
    const choice = entry.elements.instrument;
    if (settle && choice.selectedOptions) {
      let ticking;
      const offer = () => {
        clearInterval(ticking);
        const seconds = Number(choice.selectedOptions[0]?.dataset.settle ?? 0);
        settle.hidden = !seconds;
        settle.textContent = `Settle ${Math.floor(seconds / 60)}:${String(seconds % 60).padStart(2, '0')}`;
        return seconds;
      };
      choice.addEventListener('change', offer);
      settle.addEventListener('click', () => {
        const end = Date.now() + offer() * 1000;
        const tick = () => {
          const left = Math.max(0, Math.round((end - Date.now()) / 1000));
          settle.textContent = left ? `settling ${Math.floor(left / 60)}:${String(left % 60).padStart(2, '0')}` : 'settled: read it now';
          if (!left) { clearInterval(ticking); navigator.vibrate?.(300); }
        };
        ticking = setInterval(tick, 250);
        tick();
      });
      offer();
    }
    // "Save, next" goes on to an empty second figure before it sends.
    entry.addEventListener('submit', (event) => {
      const empty = inputs.find((i) => i.value.trim() === '');
      if (empty && empty !== inputs[0] && inputs[0].value.trim() !== '' && document.activeElement !== empty && current !== empty) {
        event.preventDefault();
        current = empty;
        empty.focus();
      }
    });
    mark();
    // Why it was refused stands clear of the keypad.
    entry.querySelector('.error')?.scrollIntoView({ block: 'center' });
    // A form that came back keeps its typing: go on at its end.
    current.setSelectionRange(current.value.length, current.value.length);
  }

  // The walking order: lines are dragged, or moved by their arrows or Alt with an arrow key.
  const walk = document.querySelector('form[data-walk]');
  if (walk) {
    const list = walk.querySelector('ol');
    const said = document.getElementById('walk-said');
    const move = (line, by) => {
      const lines = [...list.children];
      const to = Math.min(Math.max(lines.indexOf(line) + by, 0), lines.length - 1);
      list.insertBefore(line, by < 0 ? lines[to] : lines[to].nextSibling);
      said.textContent = `${line.querySelector('.what').textContent.trim()}: ${to + 1} of ${lines.length}`;
    };
    let moving = null;
    list.addEventListener('click', (event) => {
      const button = event.target.closest('[data-move]');
      if (!button) return;
      move(button.closest('li'), Number(button.dataset.move));
      button.focus();
    });
    list.addEventListener('keydown', (event) => {
      const by = { ArrowUp: -1, ArrowDown: 1 }[event.key];
      if (!by || !event.altKey) return;
      event.preventDefault();
      move(event.target.closest('li'), by);
      event.target.focus();
    });
    list.addEventListener('dragstart', (event) => { moving = event.target.closest('li'); moving.classList.add('moving'); });
    list.addEventListener('dragend', () => { moving?.classList.remove('moving'); moving = null; });
    list.addEventListener('dragover', (event) => {
      event.preventDefault();
      const over = event.target.closest('li');
      if (!moving || !over || over === moving) return;
      const middle = over.getBoundingClientRect();
      list.insertBefore(moving, event.clientY > middle.top + middle.height / 2 ? over.nextSibling : over);
    });
    walk.addEventListener('submit', () => { walk.elements.order.value = [...list.children].map((l) => l.dataset.id).join(','); });
  }
  // A list is narrowed while typing; the server does the same for a plain form.
  document.querySelectorAll('input[data-filter]').forEach((input) => input.addEventListener('input', () => {
    const words = input.value.toLowerCase().split(/\s+/).filter(Boolean);
    document.querySelectorAll(input.dataset.filter).forEach((line) => {
      line.hidden = !words.every((w) => line.textContent.toLowerCase().includes(w));
    });
    document.querySelectorAll('.ticklist').forEach((group) => { group.hidden = !group.querySelector('li:not([hidden])'); });
  }));
  // What a long test still needs.
  const timers = document.querySelectorAll('[data-due]');
  const tell = () => timers.forEach((timer) => {
    const minutes = Math.ceil((Number(timer.dataset.due) - Date.now()) / 60000);
    if (minutes <= 0) return;
    const text = minutes < 120 ? `${minutes} min` : minutes < 2880 ? `${Math.floor(minutes / 60)} h ${minutes % 60} min` : `${Math.round(minutes / 1440)} days`;
    let left = timer.querySelector('.left');
    if (!left) { left = document.createElement('span'); left.className = 'left text-soft'; timer.append(' ', left); }
    left.textContent = `(${text} to go)`;
  });
  if (timers.length) { tell(); setInterval(tell, 20000); }
  // One key to the next station or back to the last, from within a figure too.
  document.addEventListener('keydown', (event) => {
    const link = document.querySelector(`[data-go="${event.key}"]`);
    if (!link || event.ctrlKey || event.altKey || event.metaKey) return;
    event.preventDefault();
    link.click();
  });
  // The shorthand line: names are completed, lines kept before come back.
  const line = document.querySelector('.shorthand input[name="line"]');
  if (line) {
    // The name of one entry is replaced; what was read, if it stands there already, stays.
    const complete = ({ complete: name, entry }) => {
      const parts = line.value.split(';');
      const at = parts.map((p, i) => [p, i]).filter(([p]) => p.trim())[Number(entry)]?.[1] ?? parts.length - 1;
      const read = parts[at].match(/\s((s|mc|rel|ir|flow|water|note)\s.*|[-−+]?[\d.].*)$/i)?.[0].trimEnd();
      parts[at] = `${at ? ' ' : ''}${name}${read ?? ' '}${at < parts.length - 1 ? ' ' : ''}`;
      line.value = parts.join(';');
      line.focus();
      line.dispatchEvent(new Event('input', { bubbles: true }));
    };
    document.addEventListener('click', (event) => {
      const choice = event.target.closest('[data-complete]');
      if (choice) complete(choice.dataset);
    });
    const kept = () => JSON.parse(localStorage.getItem('lines') ?? '[]');
    let back = -1;
    line.addEventListener('keydown', (event) => {
      const first = document.querySelector('#line-preview [data-complete]');
      if (event.key === 'Tab' && !event.shiftKey && first && line.value.trim()) {
        event.preventDefault();
        complete(first.dataset);
      } else if (event.key === 'ArrowUp' || event.key === 'ArrowDown') {
        const lines = kept();
        back = Math.min(Math.max(back + (event.key === 'ArrowUp' ? 1 : -1), -1), lines.length - 1);
        if (!lines.length) return;
        event.preventDefault();
        line.value = back < 0 ? '' : lines[back];
        line.dispatchEvent(new Event('input', { bubbles: true }));
      }
    });
    line.form.addEventListener('submit', () => {
      const said = line.value.trim();
      if (said && said.length < 500) localStorage.setItem('lines', JSON.stringify([said, ...kept().filter((l) => l !== said)].slice(0, 30)));
    });
  }
  // Ctrl Z outside of a field takes the last change back.
  document.addEventListener('keydown', (event) => {
    const undo = document.querySelector('form[data-undo]');
    if (!undo || event.key !== 'z' || !(event.ctrlKey || event.metaKey) || event.target.closest('input, textarea, select')) return;
    event.preventDefault();
    undo.requestSubmit();
  });

  // A form of choices asks as soon as one is made; its address says what was asked.
  const asks = document.querySelector('form[data-on-change]');
  asks?.addEventListener('change', () => asks.requestSubmit());

  // A calculator's address always says what is on the page, and switching units comes back to it.
  const share = document.querySelector('form[data-share]');
  const address = () => {
    const given = new URLSearchParams([...new FormData(share)].filter(([, value]) => value !== ''));
    const here = share.getAttribute('action') + '?' + given;
    history.replaceState(null, '', here);
    document.querySelectorAll('input[name="back"]').forEach((input) => { input.value = here; });
  };
  if (share) {
    share.addEventListener('input', address);
    share.addEventListener('change', address);
    // What the server says about each field is also said by the field.
    document.addEventListener('htmx:after:swap', () => share.querySelectorAll('.error[id^="e-"]').forEach((error) => {
      const field = document.getElementById(error.id.replace(/^e-/, 'f-'));
      if (field) field.toggleAttribute('aria-invalid', error.textContent !== '');
      if (field && error.textContent !== '') field.setAttribute('aria-invalid', 'true');
    }));
  }
  document.addEventListener('click', async (event) => {
    const button = event.target.closest('[data-copy], [data-copy-link]');
    if (!button) return;
    const link = button.dataset.copyLink;
    const text = link ? location.origin + link : document.getElementById(button.dataset.copy).textContent;
    await navigator.clipboard.writeText(text);
    button.textContent = 'Copied';
  });

  document.querySelectorAll('[data-print]').forEach((button) => button.addEventListener('click', () => window.print()));
})();
