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
  return {
    all: () => run('waiting', 'readonly', (s) => s.getAll()),
    put: (item) => run('waiting', 'readwrite', (s) => s.put(item)),
    remove: (n) => run('waiting', 'readwrite', (s) => s.delete(n)),
    about: (key) => run('about', 'readonly', (s) => s.get(key)),
    say: (key, value) => run('about', 'readwrite', (s) => s.put(value, key)),
  };
})();
