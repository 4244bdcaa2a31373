// At the vehicle the network drops. What is pressed there is kept on this device, in order, and sent when the network is back; and what
// others do on the same job comes by itself. Everything is safe to send twice: each entry carries the id this device gave it.
(() => {
  const bar = document.getElementById("kept");
  if (!bar || !("indexedDB" in window)) {
    return;
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
  const asked = async (store, mode, act) => {
    const database = await opened;
    return new Promise((resolve, reject) => {
      // "strict" waits until the disk has it: only then it is called kept.
      const change = database.transaction(store, mode, { durability: "strict" });
      const request = act(change.objectStore(store));
      change.oncomplete = () => resolve(request?.result);
      change.onerror = change.onabort = () => reject(change.error);
    });
  };
  const waiting = () => asked("waiting", "readonly", (s) => s.getAll());
  const put = (item) => asked("waiting", "readwrite", (s) => s.put(item));
  const drop = (n) => asked("waiting", "readwrite", (s) => s.delete(n));
  const page = (url) => asked("pages", "readonly", (s) => s.get(url));
  const keepPage = (p) => asked("pages", "readwrite", (s) => s.put(p));

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

  let away = false;
  let signIn = false;
  let flight = null;
  let requests = 0;
  const ids = new Map();

  // ---- What a form says, as it will be sent.
  const works = /^\/jobs\/(\d+)\/(take-apart|refit|prove)$/;
  // A PIN is looked at by the server and nowhere else.
  const never = /handler=Second/;
  const take = (form, submitter) => {
    const url = new URL(submitter?.getAttribute("formaction") || form.getAttribute("action") || location.href, location.href);
    const match = works.exec(url.pathname);
    // What waits for a second person is not done before they have looked, also without a network.
    if (form.method !== "post" || form.dataset.held || !match || never.test(url.search) || !form.querySelector("input[name=entry]")) {
      return null;
    }
    const fields = [...new FormData(form, submitter)].map(([name, value]) => [name, typeof value === "string" ? value : value.size > 0 ? value : ""]);
    const told = form.querySelector("[data-main]") ? submitter ?? form.querySelector("button") : form.closest(".row-check")?.querySelector(".check-what") ?? submitter ?? form.querySelector("button");
    // What is folded away has no inner text.
    const words = told?.innerText || told?.textContent || "entry";
    const value = fields.find(([name, v]) => ["value", "choice", "text", "size", "pick", "what", "how", "reason", "why", "caption"].includes(name) && typeof v === "string" && v)?.[1];
    return {
      job: match[1], url: url.pathname + url.search, fields, at: Date.now(), words: (words.trim().split("\n")[0] + (value ? `: ${value}` : "")).slice(0, 120),
      then: form.querySelector("[data-main]") && /handler=(Done|Timer)\b/.test(url.search) ? frame().dataset.then || null : null, tick: frame().dataset.tick || null, state: "waiting",
    };
  };

  // ---- Showing a page that is on this device, as if what waits were kept already.
  const renew = (root) => {
    root.querySelectorAll("input[name=entry]").forEach((field) => { field.value = uuid(); });
    // A tick that is to be undone has the id this device gave it.
    root.querySelectorAll("input[type=hidden][name=target]").forEach((field) => { field.value = ids.get(field.value) ?? field.value; });
  };
  const show = (html, quiet) => {
    const fresh = new DOMParser().parseFromString(html, "text/html").getElementById("frame");
    if (!fresh) {
      return false;
    }
    const top = window.scrollY;
    frame().replaceWith(document.adoptNode(fresh));
    htmx.process(frame());
    if (quiet) {
      window.scrollTo(0, top);
      document.dispatchEvent(new CustomEvent("screeline:shown"));
    } else {
      window.scrollTo(0, 0);
      (document.querySelector("#frame [data-next]") ?? document.querySelector("#frame [data-main]"))?.focus({ preventScroll: true });
    }
    return true;
  };
  const showAhead = async (url) => {
    const made = url && (await page(url));
    if (made && made.who === frame().dataset.who && show(made.html)) {
      renew(frame());
      return true;
    }
    return false;
  };

  const kept = async (item, form) => {
    const entry = item.fields.find(([name]) => name === "entry")[1];
    item.before = frame().outerHTML;
    await put(item);
    if (item.tick && /handler=Done/.test(item.url)) {
      ids.set(item.tick, entry);
    }
    await tell();
    if (item.then) {
      if (!(await showAhead(item.then))) {
        frame().querySelectorAll(".actions button").forEach((b) => { b.disabled = true; });
        say("The next step is not on this device. It comes when the network is back.");
      }
    } else if (/handler=Undo/.test(item.url)) {
      // What was shown before the tick that is taken back.
      const target = item.fields.find(([name]) => name === "target")[1];
      const tick = (await waiting()).find((i) => i.fields.some(([name, v]) => name === "entry" && v === target));
      if (tick?.before) {
        show(tick.before);
        renew(frame());
      }
    } else if (form?.isConnected) {
      renew(form);
      form.classList.add("kept-here");
      form.closest(".row-check")?.classList.add("kept-here");
      form.querySelectorAll("textarea, input[type=text], input[type=file]").forEach((field) => { field.value = ""; });
    }
    retry();
  };

  const say = (text) => {
    const notice = document.getElementById("notice");
    if (notice) {
      notice.textContent = text;
      notice.hidden = text === "";
    }
  };

  // While something waits for its turn or the network is away, everything joins the line behind it.
  let line = 0;
  document.addEventListener("submit", (event) => {
    const item = take(event.target, event.submitter);
    const { held } = event.target.dataset;
    if (held && (away || line > 0)) {
      event.preventDefault();
      event.stopImmediatePropagation();
      say(`${held} That wants the network.`);
    } else if (item && (away || line > 0)) {
      event.preventDefault();
      event.stopImmediatePropagation();
      kept(item, event.target).catch(failed);
    } else {
      flight = item && { item, form: event.target };
    }
  }, true);
  const failed = (error) => say(`Not kept: this device could not store it (${error?.message ?? error}). Write it down.`);
  const fell = () => {
    if (flight) {
      const { item, form } = flight;
      flight = null;
      away = true;
      // Told by another line already that nothing was kept; here it is.
      kept(item, form).then(() => say(""), failed);
    }
  };
  document.addEventListener("htmx:error", fell);
  document.addEventListener("htmx:response:error", (event) => {
    if ([502, 503, 504].includes(event.detail?.ctx?.response?.status ?? 0)) {
      fell();
    }
  });
  document.addEventListener("htmx:before:request", () => { requests++; });
  document.addEventListener("htmx:finally:request", () => { requests = Math.max(0, requests - 1); });
  document.addEventListener("htmx:after:swap", () => {
    flight = null;
    ahead();
    listen();
  });

  // ---- Sending, oldest first; a job whose entry clashed waits for the choice.
  let sending = false;
  let timer = 0;
  let pause = 1000;
  const retry = () => {
    clearTimeout(timer);
    timer = setTimeout(send, pause);
  };
  const answered = async (response) => (response.headers.get("content-type") ?? "").includes("json") ? response.json() : { state: "refused", reason: `The server answered ${response.status}.` };
  const send = async () => {
    if (sending) {
      return;
    }
    sending = true;
    let sent = 0;
    try {
      const all = await waiting();
      if (all.length === 0) {
        away = false;
        return;
      }
      // Who is signed in now, and a token for their forms: what was in the page may be of another day.
      const hello = await fetch("/kept", { headers: { "X-Screeline-Kept": "1" }, cache: "no-store", redirect: "manual" });
      signIn = hello.status === 401;
      if (!hello.ok) {
        pause = Math.min(pause * 2, 15000);
        retry();
        return;
      }
      const { token } = await hello.json();
      away = false;
      pause = 1000;
      const stopped = new Set();
      for (const item of all) {
        if (item.state !== "waiting" || stopped.has(item.job)) {
          stopped.add(item.job);
          continue;
        }
        const body = new FormData();
        item.fields.filter(([name]) => name !== "form-token").forEach(([name, value]) => body.append(name, value));
        body.append("form-token", token);
        body.append("occurred_at", local(item.at));
        const response = await fetch(item.url, { method: "POST", body, headers: { "X-Screeline-Kept": "1" }, redirect: "manual" });
        if (response.status >= 500 || response.status === 401 || response.status === 429) {
          signIn = response.status === 401;
          retry();
          break;
        }
        const answer = await answered(response);
        if (answer.state === "kept") {
          await drop(item.n);
          sent++;
        } else {
          stopped.add(item.job);
          await put({ ...item, state: answer.state === "clash" ? "clash" : "refused", theirs: answer.theirs, yours: answer.yours, head: answer.head, reason: answer.reason });
        }
        await tell();
      }
    } catch (error) {
      // No network: what waits is on this device, and this is tried again. Anything else is a fault of ours and is told.
      if (!(error instanceof TypeError)) {
        console.error(error);
      }
      away = true;
      pause = Math.min(pause * 2, 15000);
      retry();
    } finally {
      sending = false;
      await tell();
    }
    if (sent > 0 && line === 0) {
      await refresh(true);
    }
  };

  // ---- The line that says so.
  const element = (tag, text, type) => {
    const e = document.createElement(tag);
    e.textContent = text;
    if (type) {
      e.className = type;
    }
    return e;
  };
  const tell = async () => {
    const all = await waiting();
    line = all.length;
    bar.hidden = line === 0;
    bar.replaceChildren();
    if (line === 0) {
      return;
    }
    const open = all.filter((i) => i.state !== "waiting");
    bar.append(element("strong", `${line} kept here, not yet sent`, "kept-count"));
    if (signIn) {
      const link = element("a", "Sign in again to send", "kept-sign-in");
      link.href = `/sign-in?back=${encodeURIComponent(location.pathname)}`;
      bar.append(link);
    }
    const details = document.createElement("details");
    details.append(element("summary", "What waits"));
    if (!signIn) {
      const button = element("button", "Send now", "button small");
      button.type = "button";
      button.addEventListener("click", () => { pause = 1000; send(); });
      details.append(button);
    }
    const list = document.createElement("ul");
    all.forEach((i) => list.append(element("li", `Job ${i.job}, ${clock(i.at)}: ${i.words}`)));
    details.append(list);
    bar.append(details);
    open.forEach((i) => {
      const block = element("div", "", "kept-choice");
      if (i.state === "clash") {
        block.append(element("strong", `Job ${i.job}: somebody else came first.`), element("p", `There: ${(i.theirs ?? []).join(" ")}`), element("p", `Here: ${(i.yours ?? [i.words]).join(" ")}`));
      } else {
        block.append(element("strong", `Job ${i.job}: not taken.`), element("p", `${i.words}. ${i.reason ?? ""}`));
      }
      const again = element("button", i.state === "clash" ? "Keep mine too" : "Send it again", "button small");
      again.type = "button";
      again.addEventListener("click", async () => {
        const fields = i.fields.map(([name, value]) => [name, name === "based_on" && i.head ? String(i.head) : value]);
        await put({ ...i, fields, state: "waiting" });
        await tell();
        send();
      });
      const leave = element("button", "Leave mine", "button small");
      leave.type = "button";
      leave.addEventListener("click", async () => {
        await drop(i.n);
        await tell();
        await refresh(true);
        send();
      });
      block.append(again, leave);
      bar.append(block);
    });
  };

  // Pages carry the name of whoever they were made for. Somebody else at this device begins without them.
  const own = async () => {
    const { who } = frame().dataset;
    if (!who || localStorage.getItem("screeline-who") === who) {
      return;
    }
    await asked("pages", "readwrite", (s) => s.clear());
    if (await window.caches?.delete("screeline-pages-1")) {
      await (await caches.open("screeline-pages-1")).add(location.pathname + location.search);
    }
    localStorage.setItem("screeline-who", who);
  };

  // ---- Pages made ahead: the next few anew whenever the job grew, the others once.
  const soon = 3;
  let walking = false;
  const ahead = async () => {
    if (walking || away || line > 0 || !frame().dataset.then) {
      return;
    }
    walking = true;
    try {
      await own();
      const { head, job, who } = frame().dataset;
      for (let url = frame().dataset.then, i = 0; url && i < 200; i++) {
        let made = await page(url);
        if (!made || made.who !== who || (i < soon && made.head !== head)) {
          const response = await fetch(url, { cache: "no-store" });
          if (!response.ok || response.redirected) {
            return;
          }
          const fresh = new DOMParser().parseFromString(await response.text(), "text/html").getElementById("frame");
          made = { url, job, head, who, html: fresh.outerHTML, then: fresh.dataset.then || null };
          await keepPage(made);
        }
        url = made.then;
      }
      document.documentElement.dataset.ahead = head;
    } catch {
      // The network went; what is here stays.
    } finally {
      walking = false;
    }
  };

  // ---- What others do. One stream for the page that is looked at.
  let stream = null;
  let listened = "";
  const listen = () => {
    const job = document.visibilityState === "visible" ? frame().dataset.job || "" : "";
    if (job === listened) {
      return;
    }
    stream?.close();
    listened = job;
    stream = job ? new EventSource(`/jobs/${job}/live`) : null;
    stream?.addEventListener("message", (event) => grown(Number(event.data)));
  };
  const shows = /^\/jobs\/\d+\/(complaint|find|way-in|take-apart|refit|prove|hand-back|history|old-and-new)$/;
  const busy = () => requests > 0 || line > 0 || flight !== null;
  const grown = (head) => {
    if (head <= Number(frame().dataset.head)) {
      return;
    }
    // One's own entry comes back with its own page.
    if (busy()) {
      setTimeout(() => grown(head), 300);
      return;
    }
    const field = document.activeElement;
    const typing = field?.closest("#frame") && field.matches("input:not([type=radio], [type=checkbox], [type=hidden]), textarea") && field.value !== field.defaultValue;
    if (typing) {
      // What is being typed stays under the hand; the rest comes when the hand leaves the field.
      say("Somebody else kept something on this job. It shows when you leave this field.");
      field.addEventListener("blur", () => { say(""); setTimeout(() => grown(head), 50); }, { once: true });
      return;
    }
    refresh(false).catch(() => {});
  };
  const refresh = async (own) => {
    if (!shows.test(location.pathname)) {
      return;
    }
    const query = new URLSearchParams(location.search);
    ["handler", "as_if"].forEach((name) => query.delete(name));
    if (own) {
      query.delete("step");
    }
    const response = await fetch(location.pathname + (query.size > 0 ? `?${query}` : ""), { cache: "no-store" });
    if (response.ok && !response.redirected && !busy()) {
      show(await response.text(), !own);
      ahead();
    }
  };

  // After a reload without a network: on from what was pressed last.
  const resume = async () => {
    await tell();
    const mine = (await waiting()).filter((i) => i.job === frame().dataset.job);
    mine.filter((i) => i.tick && /handler=Done/.test(i.url)).forEach((i) => ids.set(i.tick, i.fields.find(([name]) => name === "entry")[1]));
    const last = mine.filter((i) => i.then).at(-1);
    if (last && works.test(location.pathname)) {
      away = true;
      await showAhead(last.then);
    }
    if (line > 0) {
      send();
    } else {
      ahead();
    }
  };

  document.addEventListener("visibilitychange", listen);
  window.addEventListener("online", () => { pause = 1000; send(); });
  window.addEventListener("pagehide", () => { stream?.close(); listened = ""; });
  window.addEventListener("pageshow", listen);
  // Whoever signs out leaves no pages of theirs on a shared device; what waits stays, it is work that was done.
  document.addEventListener("submit", (event) => {
    if (event.target.querySelector("[data-sign-out]")) {
      asked("pages", "readwrite", (s) => s.clear());
      window.caches?.keys().then((names) => names.forEach((name) => caches.delete(name)));
    }
  });
  if ("serviceWorker" in navigator) {
    navigator.serviceWorker.register("/worker.js").catch(() => {});
  }
  resume().catch(failed);
  listen();
})();
