// Keeps the round going without a signal: pages carried along are shown from their copy, and what is kept on a form goes
// through the outbox first, so that nothing typed depends on the answer arriving.
importScripts('/assets/outbox.js');

const CARRIED = 'carried';
const PATIENCE = 8000;
// Posts that carry their own id, so that sending one twice stores it once.
const QUEUED = /^\/jobs\/[^/]+\/(round|shorthand|skips|findings(\/[^/]+)?|tests(\/[^/]+)?|photos(\/[^/]+)?|unfolded\/walk|drying\/round|visits|visits\/[^/]+\/finish)$/;
const KEPT = /^\/(docket|queue|jobs\/[^/]+(\/(round|findings|tests|photos|call|unfolded|unfolded\/walk|thermal\/survey|drying|drying\/round))?|jobs\/[^/]+\/photos\/[^/]+(\/thumb)?)$/;
const THUMB = /\/photos\/[^/]+\/thumb$/;

self.addEventListener('install', (event) => event.waitUntil(self.skipWaiting()));
self.addEventListener('activate', (event) => event.waitUntil(self.clients.claim()));

self.addEventListener('fetch', (event) => {
  const { request } = event;
  const url = new URL(request.url);
  if (url.origin !== location.origin) return;
  if (request.method === 'POST' && request.mode === 'navigate' && QUEUED.test(url.pathname)) event.respondWith(post(request, url));
  else if (request.method !== 'GET') return;
  else if (request.headers.has('hx-request')) event.respondWith(part(request));
  else if (request.mode === 'navigate' || url.pathname.startsWith('/assets/') || THUMB.test(url.pathname)) event.respondWith(get(request, url));
});

async function post(request, url) {
  if (request.headers.get('content-type')?.startsWith('multipart/')) return photos(request, url);
  const body = await request.text();
  const fields = new URLSearchParams(body);
  const item = await entry(url, { body, state: 'sending' });
  try {
    const answer = await fetch(url, {
      method: 'POST',
      body: outbox.form(item),
      redirect: 'manual',
      signal: AbortSignal.timeout(PATIENCE),
    });
    if (answer.status >= 500) throw new Error('the server gave up');
    // Stored, or refused with what was typed on the page: either way it waits no longer.
    await outbox.remove(item.n);
    return answer;
  } catch {
    await outbox.put({ ...item, state: 'waiting' });
    return onward(request, fields.has('stay') ? '' : fields.get('next'));
  }
}

const entry = async (url, item) => {
  const whole = { url: url.pathname + url.search, at: Date.now(), who: await outbox.about('who'), said: '', ...item };
  return { ...whole, n: await outbox.put(whole) };
};

const onward = (request, next) => Response.redirect(new URL(next?.startsWith('/jobs/') ? next : request.referrer || '/queue', location.origin), 303);

// Pictures are large and a signal may be thin: they wait on the device, the round goes on, and the page sends them.
async function photos(request, url) {
  const form = await request.formData();
  const fields = new URLSearchParams([...form].filter(([, value]) => typeof value === 'string'));
  const files = form.getAll('photo').filter((file) => file.size);
  for (const [i, photo] of files.entries()) {
    if (i) fields.set('id', outbox.newId());
    await entry(url, { body: fields.toString(), photo, state: 'waiting' });
  }
  return onward(request, fields.get('next'));
}

async function get(request, url) {
  const cache = await caches.open(CARRIED);
  try {
    const answer = await fetch(request, { signal: AbortSignal.timeout(PATIENCE) });
    const keep = answer.ok && !answer.redirected && (url.pathname.startsWith('/assets/') || KEPT.test(url.pathname));
    if (keep) await cache.put(request.url, answer.clone());
    if (answer.status < 500) return answer;
    return (await copy(cache, url)) ?? answer;
  } catch (gone) {
    const found = (await copy(cache, url)) ?? (request.mode === 'navigate' ? await cache.match('/queue') : undefined);
    if (found) return found;
    throw gone;
  }
}

// The page itself, or the same view without what only narrows it.
const copy = async (cache, url) => (await cache.match(url.href)) ?? cache.match(url.href.split('?')[0], { ignoreSearch: !/[?&](at|route)=/.test(url.search) });

async function part(request) {
  try {
    const answer = await fetch(request, { signal: AbortSignal.timeout(PATIENCE) });
    if (answer.status < 500) return answer;
  } catch { /* told below */ }
  const text = '<p class="text-soft">No signal: what you keep waits on this device, and its verdict comes when it is sent.</p>';
  return new Response(text, { headers: { 'content-type': 'text/html; charset=utf-8' } });
}
