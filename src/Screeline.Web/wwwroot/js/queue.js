// At the vehicle the network drops. What is pressed there is kept on this device, in order, and sent when the network is back.
// Everything is safe to send twice: each entry carries the id this device gave it.
(() => {
  const device = window.screeline;
  if (!device) {
    return;
  }
  const { waiting, put, drop, frame, now, say } = device;
  const keptHere = "Kept here. What it comes to is worked out when the network is back.";
  let signIn = false;

  // ---- What a form says, as it will be sent.
  const take = (form, submitter) => {
    const { keep, held, ticks, advances, undoes, prefetch, what } = form.dataset;
    // What waits for a second person is not done before they have looked, also without a network.
    if (keep === undefined || held || !form.querySelector("input[name=entry]")) {
      return null;
    }
    const url = new URL(submitter?.getAttribute("formaction") || form.getAttribute("action") || location.href, location.href);
    const fields = [...new FormData(form, submitter)].map(([name, value]) => [name, typeof value === "string" ? value : value.size > 0 ? value : ""]);
    const pressed = submitter ?? form.querySelector("button");
    // What is folded away has no inner text.
    const words = what ?? (pressed?.innerText || pressed?.textContent || "entry");
    const value = fields.find(([name, v]) => ["value", "choice", "text", "size", "pick", "what", "how", "reason", "why", "caption"].includes(name) && typeof v === "string" && v)?.[1];
    return {
      job: frame().dataset.job, page: performance.timeOrigin, from: performance.now(), url: url.pathname + url.search, fields, at: Date.now(), words: (words.trim().split("\n")[0] + (value ? `: ${value}` : "")).slice(0, 120),
      then: advances === undefined ? null : frame().dataset.then || null, ticks: ticks === undefined ? null : frame().dataset.tick || null,
      undoes: undoes === undefined ? null : form.elements.target.value, picture: prefetch !== undefined, state: "waiting",
    };
  };

  const kept = async (item, form) => {
    const entry = device.entryOf(item);
    item.before = frame().outerHTML;
    await put(item);
    if (item.ticks) {
      device.ids.set(item.ticks, entry);
    }
    await tell();
    if (item.then) {
      if (!(await device.showPrefetched(item.then))) {
        frame().querySelectorAll(".actions button").forEach((b) => { b.disabled = true; });
        say("The next step is not on this device. It comes when the network is back.");
      }
    } else if (item.undoes) {
      // What was shown before the tick that is taken back.
      const tick = (await waiting()).find((i) => device.entryOf(i) === item.undoes);
      if (tick?.before) {
        device.show(tick.before);
        device.renew(frame());
      }
    } else if (form?.isConnected) {
      device.renew(form);
      form.classList.add("kept-here");
      form.closest(".row-check")?.classList.add("kept-here");
      form.querySelectorAll("textarea, input[type=text], input[type=file]").forEach((field) => { field.value = ""; });
      if (form.id === "keep-form") {
        say(keptHere, true);
      }
      document.dispatchEvent(new CustomEvent("screeline:kept", { detail: { form, item } }));
    }
    retry();
  };

  // While something waits for its turn or the network is away, everything joins the line behind it.
  document.addEventListener("submit", (event) => {
    const item = take(event.target, event.submitter);
    const { held } = event.target.dataset;
    if (held && (now.away || now.line > 0)) {
      event.preventDefault();
      event.stopImmediatePropagation();
      say(`${held} That wants the network.`);
    } else if (item && (now.away || now.line > 0)) {
      event.preventDefault();
      event.stopImmediatePropagation();
      kept(item, event.target).catch(failed);
    } else {
      now.flight = item && { item, form: event.target };
    }
  }, true);
  const failed = (error) => say(`Not kept: this device could not store it (${error?.message ?? error}). Write it down.`);
  const fell = () => {
    if (now.flight) {
      const { item, form } = now.flight;
      now.flight = null;
      now.away = true;
      // Told by another line already that nothing was kept; here it is.
      say("");
      kept(item, form).catch(failed);
    }
  };
  document.addEventListener("htmx:error", (event) => {
    const keep = event.detail?.ctx?.sourceElement?.id === "set-form" && document.getElementById("keep-form");
    if (keep) {
      const here = keep.matches(".kept-here");
      say(here ? keptHere : "No network. Keep what you measured: what it comes to is worked out when the network is back.", here);
    }
    fell();
  });
  // Another figure after it was kept: that one is not kept yet.
  document.addEventListener("input", (event) => {
    if (event.target.closest("#set-form")) {
      document.getElementById("keep-form")?.classList.remove("kept-here");
    }
  });
  document.addEventListener("htmx:response:error", (event) => {
    if ([502, 503, 504].includes(event.detail?.ctx?.response?.status ?? 0)) {
      fell();
    }
  });
  document.addEventListener("htmx:before:request", () => { now.requests++; });
  document.addEventListener("htmx:finally:request", () => { now.requests = Math.max(0, now.requests - 1); });
  document.addEventListener("htmx:after:swap", () => {
    now.flight = null;
    device.prefetch?.();
    device.listen?.();
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
        now.away = false;
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
      now.away = false;
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
        body.append("occurred_at", device.local(item.at));
        // How long it waited by the clock that runs with the page: a date can be set. After a reload it is at least as long as this page has been here.
        const same = item.page === performance.timeOrigin;
        body.append("same_page", same ? "yes" : "");
        body.append("waited_ms", Math.floor(performance.now() - (same ? item.from : 0)));
        const response = await fetch(item.url, { method: "POST", body, headers: { "X-Screeline-Kept": "1" }, redirect: "manual" });
        if (response.status >= 500 || response.status === 401 || response.status === 429) {
          signIn = response.status === 401;
          retry();
          break;
        }
        const answer = await answered(response);
        if (answer.state === "kept") {
          await drop(item.n);
          if (item.picture) {
            // From now on the server has its page.
            await device.dropPages(`/jobs/${item.job}/pictures/${device.entryOf(item)}`);
          }
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
      now.away = true;
      pause = Math.min(pause * 2, 15000);
      retry();
    } finally {
      sending = false;
      await tell();
    }
    if (sent > 0 && now.line === 0) {
      await device.refresh?.(true);
    }
  };

  // ---- The line that says so (kept.js), and what is pressed there.
  const tell = async () => {
    const items = await waiting();
    now.line = items.length;
    // Where one finds a page beside the step on which something waits, or that waits itself.
    const places = new Set(items.flatMap((i) => [i.url.split("?")[0], `/jobs/${i.job}/pictures/${device.entryOf(i)}`]));
    frame().querySelectorAll("a[data-prefetch]").forEach((a) => a.classList.toggle("kept-here", places.has(a.pathname)));
    document.dispatchEvent(new CustomEvent("screeline:waiting", { detail: { items, signIn } }));
  };
  const sendNow = () => {
    pause = 1000;
    send();
  };
  const sendAgain = async (n) => {
    const item = (await waiting()).find((i) => i.n === n);
    const fields = item.fields.map(([name, value]) => [name, name === "based_on" && item.head ? String(item.head) : value]);
    await put({ ...item, fields, state: "waiting" });
    await tell();
    send();
  };
  const leave = async (n) => {
    await drop(n);
    await tell();
    await device.refresh?.(true);
    send();
  };
  Object.assign(device, { tell, sendNow, sendAgain, leave });

  // After a reload without a network: on from what was pressed last.
  const resume = async () => {
    // A page that comes from this device a second time must not give its entries the ids of the first.
    device.renew?.(frame());
    await tell();
    const mine = (await waiting()).filter((i) => i.job === frame().dataset.job);
    mine.filter((i) => i.ticks).forEach((i) => device.ids.set(i.ticks, device.entryOf(i)));
    const last = device.last(mine);
    if (last && device.isStep(location.pathname)) {
      now.away = true;
      await device.showPrefetched(last.then);
    }
    if (now.line > 0) {
      send();
    } else {
      device.prefetch?.();
    }
  };

  window.addEventListener("online", sendNow);
  // Whoever signs out leaves no pages of theirs on a shared device; what waits stays, it is work that was done.
  document.addEventListener("submit", (event) => {
    if (event.target.querySelector("[data-sign-out]")) {
      device.clearPages();
      window.caches?.keys().then((names) => names.forEach((name) => caches.delete(name)));
    }
  });
  if ("serviceWorker" in navigator) {
    navigator.serviceWorker.register("/worker.js").catch(() => {});
  }
  resume().catch(failed);
  device.listen?.();
})();
