// What waits to be sent: one IndexedDB store shared by the pages and the service worker.
self.outbox = (() => {
  const open = () => new Promise((yes, no) => {
    const asked = indexedDB.open('gutteral', 1);
    asked.onupgradeneeded = () => {
      asked.result.createObjectStore('waiting', { keyPath: 'n', autoIncrement: true });
      asked.result.createObjectStore('about');
    };
    asked.onsuccess = () => yes(asked.result);
    asked.onerror = () => no(asked.error);
  });
  let db;
  // Written means written: an entry survives the tab, the browser and the battery.
  const run = async (store, mode, act) => {
    db ??= open();
    const work = (await db).transaction(store, mode, { durability: 'strict' });
    const asked = act(work.objectStore(store));
    return new Promise((yes, no) => {
      work.oncomplete = () => yes(asked?.result);
      work.onerror = work.onabort = () => no(work.error);
    });
  };
  // Time-ordered ids (UUIDv7), made here so that sending twice stores once.
  const newId = () => {
    const bytes = crypto.getRandomValues(new Uint8Array(16));
    let now = Date.now();
    for (let i = 5; i >= 0; i--, now = Math.floor(now / 256)) bytes[i] = now % 256;
    bytes[6] = 0x70 | (bytes[6] & 0x0f);
    bytes[8] = 0x80 | (bytes[8] & 0x3f);
    const hex = [...bytes].map((b) => b.toString(16).padStart(2, '0')).join('');
    return hex.replace(/^(.{8})(.{4})(.{4})(.{4})/, '$1-$2-$3-$4-');
  };
  // What is posted for an entry: its fields, with its picture behind them where it has one.
  const form = (item, more = {}) => {
    const fields = new URLSearchParams(item.body);
    Object.entries(more).forEach(([k, v]) => fields.set(k, v));
    if (!item.photo) return fields;
    const whole = new FormData();
    fields.forEach((v, k) => whole.append(k, v));
    whole.append('photo', item.photo, item.photo.name);
    return whole;
  };
  return {
    newId,
    form,
    all: () => run('waiting', 'readonly', (s) => s.getAll()),
    put: (item) => run('waiting', 'readwrite', (s) => s.put(item)),
    // Sent: it is forgotten, unless it grew meanwhile.
    settle: (item) => run('waiting', 'readwrite', (s) => {
      const there = s.get(item.n);
      there.onsuccess = () => { if (there.result?.body === item.body) s.delete(item.n); };
      return there;
    }),
    remove: (n) => run('waiting', 'readwrite', (s) => s.delete(n)),
    about: (key) => run('about', 'readonly', (s) => s.get(key)),
    say: (key, value) => run('about', 'readwrite', (s) => s.put(value, key)),
  };
})();
