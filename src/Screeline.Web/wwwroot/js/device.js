// What the scripts of a job's page share: the store on this device, what the page says of itself, and how things stand with the network.
window.screeline = (() => {
  if (!document.getElementById("kept") || !("indexedDB" in window)) {
    return null;
  }

  // ---- The store on this device: what waits, and pages made ahead.
  const opened = new Promise((resolve, reject) => {
    const open = indexedDB.open("screeline", 1);
    open.onupgradeneeded = () => {
      open.result.createObjectStore("waiting", { keyPath: "n", autoIncrement: true });
      open.result.createObjectStore("pages", { keyPath: "url" });
    };
    open.onsuccess = () => resolve(open.result);
    open.onerror = () => reject(open.error);
  });
  const ask = async (store, mode, act) => {
    const database = await opened;
    return new Promise((resolve, reject) => {
      // "strict" waits until the disk has it: only then it is called kept.
      const change = database.transaction(store, mode, { durability: "strict" });
      const request = act(change.objectStore(store));
      change.oncomplete = () => resolve(request?.result);
      change.onerror = change.onabort = () => reject(change.error);
    });
  };
  const waiting = () => ask("waiting", "readonly", (s) => s.getAll());
  const put = (item) => ask("waiting", "readwrite", (s) => s.put(item));
  const drop = (n) => ask("waiting", "readwrite", (s) => s.delete(n));
  const page = (url) => ask("pages", "readonly", (s) => s.get(url));
  const keepPage = (p) => ask("pages", "readwrite", (s) => s.put(p));
  const dropPages = (start) => ask("pages", "readwrite", (s) => s.delete(IDBKeyRange.bound(start, `${start}\uffff`)));
  const clearPages = () => ask("pages", "readwrite", (s) => s.clear());

  const uuid = () => {
    // Not every address allows randomUUID: only https and the device itself.
    const b = crypto.getRandomValues(new Uint8Array(16));
    b[6] = (b[6] & 15) | 64;
    b[8] = (b[8] & 63) | 128;
    const h = [...b].map((x) => x.toString(16).padStart(2, "0")).join("");
    return `${h.slice(0, 8)}-${h.slice(8, 12)}-${h.slice(12, 16)}-${h.slice(16, 20)}-${h.slice(20)}`;
  };
  const frame = () => document.getElementById("frame");
  const clock = (at) => new Date(at).toLocaleTimeString([], { hour: "2-digit", minute: "2-digit", hour12: false });
  const local = (at) => {
    const d = new Date(at);
    const minutes = -d.getTimezoneOffset();
    const pad = (x) => String(Math.floor(Math.abs(x))).padStart(2, "0");
    return `${new Date(d.getTime() + minutes * 60000).toISOString().slice(0, 23)}${minutes < 0 ? "-" : "+"}${pad(minutes / 60)}:${pad(minutes % 60)}`;
  };
  // Where an item leads to when its entry stands: the last one that was not taken back again.
  const entryOf = (item) => item.fields.find(([name]) => name === "entry")[1];
  const last = (items) => {
    const back = new Set(items.filter((i) => /handler=Undo\b/.test(i.url)).map((i) => i.fields.find(([name]) => name === "target")[1]));
    return items.filter((i) => i.then && !back.has(entryOf(i))).at(-1);
  };
  const say = (text, good = false) => {
    const notice = document.getElementById("notice");
    if (notice) {
      notice.classList.toggle("notice-good", good);
      notice.textContent = text;
      notice.hidden = text === "";
    }
  };

  return {
    // away: the last try found no network. line: how many entries wait. requests: how many are on their way. flight: the form that is.
    now: { away: false, line: 0, requests: 0, flight: null },
    // Ids that pages made ahead gave to ticks, and those this device gave them since.
    ids: new Map(),
    // The three places where one works step by step, and those beside them that one comes to from a step.
    works: /^\/jobs\/(\d+)\/(take-apart|refit|prove)$/,
    beside: /^\/jobs\/(\d+)\/(old-and-new|set\/[a-z]+|pictures\/[0-9a-f-]{36})$/,
    waiting, put, drop, page, keepPage, dropPages, clearPages, uuid, frame, clock, local, entryOf, last, say,
  };
})();
