// The page's side of working without a signal: what waits is shown and sent, once, when somebody answers again.
(() => {
  const who = document.documentElement.dataset.who;
  if (!who || !('serviceWorker' in navigator)) return;
  const AGAIN = 15000;
  const badge = document.getElementById('waiting');
  const escape = (text) => { const span = document.createElement('span'); span.textContent = text; return span.innerHTML; };

  // A copy shown twice, or gone back to, must not send its old id with new figures.
  const fresh = () => document.querySelectorAll('form[data-queue] input[name="id"]').forEach((input) => { input.value = outbox.newId(); });
  window.addEventListener('pageshow', (event) => { if (event.persisted) fresh(); });
  fresh();

  const mine = async () => (await outbox.all()).filter((item) => item.who === who);

  // What is said of an entry that came back: the page's own words.
  const words = (html) => {
    const page = new DOMParser().parseFromString(html, 'text/html');
    const said = [...page.querySelectorAll('#main .error, #main .asked')].map((e) => e.textContent.trim()).filter(Boolean);
    const keep = page.querySelector('#main [name="keep_anyway"]');
    const whole = [page.querySelector('#main h1'), page.querySelector('#main .lead, #main p')].map((e) => e?.textContent.trim()).filter(Boolean);
    return { said: (said.length ? said : whole).join(' '), keepAnyway: keep?.value ?? null };
  };

  // Sends one entry. True: go on; false: nobody answers, try later.
  const send = async (item, token) => {
    const body = outbox.form(item, { csrf: token, at: item.at });
    const answer = await fetch(item.url, { method: 'POST', body, redirect: 'manual', signal: AbortSignal.timeout(item.photo ? 180000 : 30000) });
    if (answer.type === 'opaqueredirect' || answer.ok) { await outbox.settle(item); return true; }
    if (answer.status === 401 || (answer.status === 403 && !answer.headers.get('x-refused'))) return false;
    const { said, keepAnyway } = words(await answer.text());
    if (answer.status >= 500 || answer.status === 429) {
      // What breaks the server each time is not sent for ever behind everybody's back: it is said, and stands aside.
      const tries = (item.tries ?? 0) + 1;
      const broken = answer.status === 500;
      const state = broken && tries >= 3 ? 'refused' : 'waiting';
      await outbox.put({ ...item, tries, state, said: `The server could not store it (tried ${tries} ${tries === 1 ? 'time' : 'times'}): ${said}` });
      return broken;
    }
    await outbox.put({ ...item, state: keepAnyway ? 'asked' : 'refused', said, keepAnyway });
    return true;
  };

  // The token of this session, or null when nobody is signed in or nobody answers.
  const token = async () => {
    const answer = await fetch('/queue', { headers: { 'x-fresh': '1' } });
    if (!answer.ok || answer.redirected) return null;
    const page = new DOMParser().parseFromString(await answer.text(), 'text/html');
    return page.documentElement.dataset.who === who ? page.querySelector('input[name="csrf"]')?.value : null;
  };

  const due = (item) => item.state === 'waiting' || (item.state === 'sending' && Date.now() - item.at > 30000);
  const sync = () => navigator.locks.request('gutteral-sync', { ifAvailable: true }, async (lock) => {
    if (!lock) return;
    try {
      const waiting = (await mine()).filter(due);
      if (!waiting.length) return;
      const key = await token();
      if (!key) { await show('signed-out'); return; }
      // A long queue is told from time to time: telling it costs as much as it is long.
      let told = 0;
      for (const item of waiting) {
        if (!(await send(item, key))) break;
        if (Date.now() - told < 400) continue;
        await show();
        told = Date.now();
      }
      const sent = (await mine()).map((i) => i.n);
      if (waiting.some((i) => i.photo && !sent.includes(i.n))) anew();
    } catch { /* nobody answers: the next round tries again */ }
    await show();
  });

  // Pictures that arrived are shown from the server, unless something is being typed.
  const anew = () => {
    const typing = [...document.querySelectorAll('#main input:not([type="hidden"], [type="file"]), #main textarea')].some((f) => f.value !== f.defaultValue);
    if (document.querySelector('.kept-photos') && !typing) location.reload();
  };

  const show = async (state) => {
    const items = await mine();
    const stuck = items.filter((i) => i.state === 'asked' || i.state === 'refused').length;
    badge.hidden = items.length === 0;
    badge.textContent = stuck ? `${items.length} waiting, ${stuck} to look at` : `${items.length} waiting`;
    badge.title = state === 'signed-out' ? 'Sign in again to send them' : 'Saved on this device, not sent yet';
    document.documentElement.dataset.waiting = items.length;
    list(items, state);
    here(items);
    pictures(items);
  };

  // Pictures not sent yet stand where they will be seen.
  const seen = new Map();
  const picture = (item) => {
    if (!seen.has(item.n)) seen.set(item.n, URL.createObjectURL(item.photo));
    return seen.get(item.n);
  };
  const pictures = (items) => {
    const place = document.querySelector('.kept-photos');
    if (!place) return;
    const job = location.pathname.split('/')[2];
    const here = items.filter((i) => i.photo && i.url.split('/')[2] === job
      && (place.dataset.place === undefined || (new URLSearchParams(i.body).get('place') ?? '') === place.dataset.place));
    place.innerHTML = here.map((i) => `<span class="w-28 text-xs leading-tight"><img class="block w-full border-2 border-dashed border-dry" src="${picture(i)}" alt="Photo waiting to be sent"><span class="text-soft">${i.state === 'refused' ? 'not taken' : 'waits on this device'}</span></span>`).join('');
  };

  // What was kept at this station and is not sent yet stands with its readings.
  const here = (items) => {
    const form = document.getElementById('entry');
    if (!form) return;
    document.querySelectorAll('.kept-here').forEach((e) => e.remove());
    const at = (item) => new URLSearchParams(item.body).get('station');
    for (const item of items.filter((i) => at(i) === form.dataset.station)) {
      const line = document.createElement('p');
      line.className = 'kept-here my-1.5 border-l-5 border-dashed border-dry px-3';
      line.innerHTML = `<span class="font-mono">${escape(told(item).figures)}</span> <span class="text-soft">waits on this device</span>`;
      document.getElementById('verdict').after(line);
    }
    const stations = new Set(items.map(at));
    document.querySelectorAll('.strip a').forEach((a) => a.classList.toggle('kept', stations.has(new URL(a.href).searchParams.get('at'))));
  };

  // An entry in words.
  const told = (item) => {
    const f = new URLSearchParams(item.body);
    const figures = [f.get('t'), f.get('m'), f.get('line'), f.get('note'), f.get('reason'), f.get('figures')?.split(' ').slice(-6).join(' ')].filter(Boolean).join(' ');
    const kind = item.photo ? 'photo' : /findings\/|tests\/|photos\/./.test(item.url) ? 'change' : /findings/.test(item.url) ? `finding ${(f.get('what') ?? '').replaceAll('_', ' ')}`
      : /tests/.test(item.url) ? `test ${(f.get('test') ?? '').replaceAll('_', ' ')}` : /finish/.test(item.url) ? 'finish the visit' : /visits$/.test(item.url) ? 'start of a visit' : /skips/.test(item.url) ? 'skip' : /walk$/.test(item.url) ? 'walk' : /drying\/round$/.test(item.url) ? 'drying round' : 'reading';
    return { kind, where: f.get('where') ?? '', figures };
  };

  const list = (items, state) => {
    const place = document.getElementById('queue');
    if (!place) return;
    const rows = items.map((item) => {
      const { kind, where, figures } = told(item);
      const time = new Date(item.at).toLocaleString([], { dateStyle: 'medium', timeStyle: 'short' });
      const acts = [
        item.state === 'asked' ? `<button class="button small" data-anyway="${item.n}">Save anyway</button>` : '',
        item.state === 'refused' ? `<button class="button small" data-again="${item.n}">Send again</button>` : '',
        item.photo ? `<a href="${picture(item)}" download="${escape(item.photo.name || 'photo')}">Save on this device</a>` : `<a href="${escape(item.url.split('#')[0])}">Open its page</a>`,
        `<button class="plain text-soft" data-drop="${item.n}">Discard</button>`,
      ].join(' ');
      const what = { waiting: 'waits for a signal', sending: 'being sent', asked: 'asked about', refused: 'not taken' }[item.state];
      const small = item.photo ? `<img class="waiting-photo block w-20 self-start border-2 border-dashed border-dry" src="${picture(item)}" alt="">` : '';
      return `<li class="${item.state} flex items-baseline gap-4 max-phone:flex-wrap">${small}<span class="min-w-0 flex-1 [overflow-wrap:anywhere]"><strong>${escape(where || kind)}</strong> <span class="font-mono">${escape(figures)}</span><span class="note text-soft">${escape(kind)}, ${escape(time)}: ${what}</span>${item.said ? `<span class="mt-0.5 block text-sm text-danger">${escape(item.said)}</span>` : ''}</span><span class="flex flex-wrap items-baseline gap-3.5 max-phone:basis-full">${acts}</span></li>`;
    });
    const signedOut = state === 'signed-out' ? '<p class="asked">You are signed out on the server: <a href="/sign-in?next=/queue">sign in</a>, and they are sent.</p>' : '';
    place.innerHTML = rows.length ? `${signedOut}<ul class="rows">${rows.join('')}</ul>` : '<p class="lead">Nothing waits: everything kept has been stored.</p>';
  };

  document.addEventListener('click', async (event) => {
    const button = event.target.closest('[data-anyway], [data-again], [data-drop], [data-sync]');
    if (!button) return;
    const item = (await mine()).find((i) => String(i.n) === (button.dataset.anyway ?? button.dataset.again ?? button.dataset.drop));
    if (button.dataset.anyway && item) {
      const body = new URLSearchParams(item.body);
      body.set('keep_anyway', item.keepAnyway);
      await outbox.put({ ...item, body: body.toString(), state: 'waiting', said: '' });
    } else if (button.dataset.again && item) await outbox.put({ ...item, state: 'waiting', said: '', tries: 0 });
    else if (button.dataset.drop && item) {
      if (button.textContent === 'Discard') { button.textContent = 'Discard for good?'; return; }
      await outbox.remove(item.n);
    }
    await show();
    await sync();
  });

  // Signing out forgets the copies; what waits must be sent first, or it would stay behind on this device.
  document.querySelector('form[action="/sign-out"]')?.addEventListener('submit', async (event) => {
    const form = event.target;
    if (form.dataset.cleared) return;
    event.preventDefault();
    await sync();
    if ((await mine()).length) { location.href = '/queue'; return; }
    await caches.delete('carried');
    localStorage.removeItem('lines');
    form.dataset.cleared = '1';
    form.submit();
  });

  // Carries the pages of a round along.
  const carry = async () => {
    const place = document.getElementById('carry');
    if (!place) return;
    const pages = place.dataset.pages.split(' ').filter(Boolean);
    const key = `carried ${place.dataset.key}`;
    const cache = await caches.open('carried');
    const done = () => { place.textContent = 'Available offline.'; place.dataset.done = '1'; };
    const last = Number(await outbox.about(key) ?? 0);
    if (Date.now() - last < 10 * 60 * 1000 && (await cache.match(pages[0].replace('&ahead=1', '')))) { done(); return; }
    let count = 0;
    for (const page of pages) {
      try {
        const answer = await fetch(page);
        if (answer.ok && !answer.redirected) { await cache.put(page.replace('&ahead=1', ''), answer); count += 1; }
      } catch { break; }
      place.textContent = `Carrying along: ${count} of ${pages.length} pages.`;
    }
    if (count === pages.length) { await outbox.say(key, Date.now()); done(); } else if (last) done();
    else place.textContent = `Only ${count} of ${pages.length} pages are available offline yet: stay where there is a signal a little longer.`;
  };

  const copyOf = Number(document.documentElement.dataset.rendered);
  if (Date.now() - copyOf > 60000) {
    const from = document.getElementById('copy');
    from.hidden = false;
    from.textContent = `copy of ${new Date(copyOf).toLocaleTimeString([], { hour: '2-digit', minute: '2-digit' })}`;
  }
  (async () => {
    // Somebody else's copies on a shared device are not for this person's eyes.
    const before = await outbox.about('who');
    if (before && before !== who) { await caches.delete('carried'); localStorage.removeItem('lines'); }
    await outbox.say('who', who);
    await navigator.serviceWorker.register('/sw.js');
    await navigator.serviceWorker.ready;
    await show();
    await sync();
    await carry();
  })();
  window.addEventListener('online', sync);
  document.addEventListener('gutteral:kept', async () => { await show(); await sync(); });
  setInterval(sync, AGAIN);
})();
