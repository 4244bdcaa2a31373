// What the scripts of a job's page share: the store on this device, what the page says of itself, and how things stand with the network.
window.screeline = (() => {
  if (!document.getElementById("kept") || !("indexedDB" in window)) {
    return null;
  }

  // ---- The store on this device: what waits, and pages made ahead.
  const opened = idb.openDB("screeline", 1, {
    upgrade(database) {
      database.createObjectStore("waiting", { keyPath: "n", autoIncrement: true });
      database.createObjectStore("pages", { keyPath: "url" });
    },
  });
  const change = async (store, act) => {
    // "strict" waits until the disk has it: only then it is called kept.
    const transaction = (await opened).transaction(store, "readwrite", { durability: "strict" });
    const result = await act(transaction.store);
    await transaction.done;
    return result;
  };
  const under = (start) => IDBKeyRange.bound(start, `${start}\uffff`);
  const field = (item, name) => item.fields.find(([n]) => n === name)?.[1];
  // What waited before forms said themselves what they do is still sent: its address says it.
  const said = (item) => "undoes" in item ? item : { ...item, ticks: /handler=Done\b/.test(item.url) ? item.tick : null, undoes: /handler=Undo\b/.test(item.url) ? field(item, "target") : null, picture: /handler=Picture\b/.test(item.url) };
  const waiting = async () => (await (await opened).getAll("waiting")).map(said);
  const put = (item) => change("waiting", (s) => s.put(item));
  const drop = (n) => change("waiting", (s) => s.delete(n));
  // A page made before pages said how they are used is made anew.
  const current = (made) => made?.use === undefined ? undefined : made;
  const page = async (url) => current(await (await opened).get("pages", url));
  const keepPage = (made) => change("pages", (s) => s.put(made));
  const dropPages = (start) => change("pages", (s) => s.delete(under(start)));
  const clearPages = () => change("pages", (s) => s.clear());

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
  const entryOf = (item) => field(item, "entry");
  // Where the work is: what leads on when its entry stands, the last one that was not taken back again.
  const last = (items) => {
    const back = new Set(items.filter((i) => i.undoes).map((i) => i.undoes));
    return items.filter((i) => i.then && !back.has(entryOf(i))).at(-1);
  };
  // The places where one works step by step, as the page says them.
  const isStep = (path) => (frame().dataset.steps ?? "").split(" ").includes(path);
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
    waiting, put, drop, page, keepPage, dropPages, clearPages, uuid, frame, field, clock, local, entryOf, last, isStep, say,
  };
})();
