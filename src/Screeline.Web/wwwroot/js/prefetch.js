// Prefetch: pages made ahead, what follows when the main action is done, and the pages beside a step; shown from this device while the network is away.
(() => {
  const device = window.screeline;
  if (!device) {
    return;
  }
  const { frame, now } = device;
  const cache = "screeline-pages-1";
  const parsed = (html) => new DOMParser().parseFromString(html, "text/html").getElementById("frame");

  // ---- Showing a page that is on this device, as if what waits were kept already.
  // What is pressed has an id of its own, also where the same page is shown a second time.
  const renew = (root) => {
    root.querySelectorAll("input[name=entry]").forEach((field) => { field.value = device.uuid(); });
    // A tick that is to be undone has the id this device gave it.
    root.querySelectorAll("input[type=hidden][name=target]").forEach((field) => { field.value = device.ids.get(field.value) ?? field.value; });
  };
  // What a control is about. The same button is another one at another step: Enter must not do what was not meant.
  const about = (control) => {
    const of = ["step", "test", "check", "target", "fastener"].map((name) => control.form?.querySelector(`input[type=hidden][name=${name}]`)?.value);
    return [control.tagName, control.id, control.getAttribute("href"), control.name, control.type === "radio" || control.type === "submit" ? control.value : "", control.form?.getAttribute("action"), ...of, control.matches("summary") ? control.textContent : ""].join(" ");
  };
  const controls = (what) => [...frame().querySelectorAll(what)];
  // Remembers one of them, and tells how to find it in the page that comes.
  const remember = (control, what) => {
    const name = about(control);
    const at = controls(what).filter((other) => about(other) === name).indexOf(control);
    return () => controls(what).filter((other) => about(other) === name)[at];
  };
  const show = (html, quiet) => {
    const fresh = parsed(html);
    if (!fresh) {
      return false;
    }
    const top = window.scrollY;
    const reachable = "a[href], button, input, select, textarea, summary, [tabindex]";
    const focus = quiet && document.activeElement?.matches(`#frame :is(${reachable})`) ? remember(document.activeElement, reachable) : null;
    const open = quiet ? controls("details[open] > summary").map((summary) => remember(summary, "details > summary")) : [];
    frame().replaceWith(document.adoptNode(fresh));
    htmx.process(frame());
    if (quiet) {
      open.map((find) => find()).filter(Boolean).forEach((summary) => { summary.parentElement.open = true; });
      focus?.()?.focus({ preventScroll: true });
      window.scrollTo(0, top);
      document.dispatchEvent(new CustomEvent("screeline:shown"));
    } else {
      window.scrollTo(0, 0);
      (document.querySelector("#frame [data-next]") ?? document.querySelector("#frame [data-main]"))?.focus({ preventScroll: true });
    }
    return true;
  };
  const showPrefetched = async (url) => {
    const made = url && (await device.page(url));
    if (made && made.who === frame().dataset.who && show(made.html)) {
      renew(frame());
      return true;
    }
    return false;
  };

  // Pages carry the name of whoever they were made for. Somebody else at this device begins without them.
  const own = async () => {
    const { who } = frame().dataset;
    if (!who || localStorage.getItem("screeline-who") === who) {
      return;
    }
    await device.clearPages();
    if (window.caches) {
      await caches.delete(cache);
      // The first page came before a worker was here to keep it.
      await (await caches.open(cache)).add(location.pathname + location.search);
    }
    localStorage.setItem("screeline-who", who);
  };

  // The jobs that were open last stay on this device, those before go; what waits is kept apart from pages.
  const most = 6;
  const forget = async () => {
    const { job } = frame().dataset;
    const before = JSON.parse(localStorage.getItem("screeline-jobs") ?? "[]");
    if (before[0] === job) {
      return;
    }
    const jobs = [job, ...before.filter((other) => other !== job)];
    for (const old of jobs.slice(most)) {
      await device.dropPages(`/jobs/${old}/`);
      const pages = await window.caches?.open(cache);
      for (const request of (await pages?.keys()) ?? []) {
        if (new URL(request.url).pathname.startsWith(`/jobs/${old}/`)) {
          await pages.delete(request);
        }
      }
    }
    localStorage.setItem("screeline-jobs", JSON.stringify(jobs.slice(0, most)));
  };

  // ---- Making them: the next few anew whenever the job grew, the others once.
  const soon = 3;
  let walking = false;
  const keep = async (url, shown) => {
    const { head, job, who } = shown.dataset;
    const beside = [...shown.querySelectorAll("[data-prefetch]")].map((e) => new URL(e.dataset.prefetch || e.getAttribute("href"), location.origin));
    const made = { url, job, head, who, use: shown.dataset.withoutNetwork, html: shown.outerHTML, then: shown.dataset.then || null, beside: [...new Set(beside.map((u) => u.pathname + u.search))] };
    await device.keepPage(made);
    return made;
  };
  const make = async (url, anew) => {
    const { head, who } = frame().dataset;
    const known = await device.page(url);
    if (known?.who === who && (!anew || known.head === head)) {
      return known;
    }
    const response = await fetch(url, { cache: "no-store" });
    if (!response.ok || response.redirected) {
      return null;
    }
    const copy = response.clone();
    const made = await keep(url, parsed(await response.text()));
    if (made.use === "beside") {
      // Also for the worker, which gives it when a link to it is pressed before it is known that the network is away.
      await (await window.caches?.open(cache))?.put(url, copy);
    }
    return made;
  };
  const prefetch = async () => {
    if (walking || now.away || now.line > 0 || frame().dataset.withoutNetwork !== "steps") {
      return;
    }
    walking = true;
    try {
      await own();
      await forget();
      const { head } = frame().dataset;
      // The page that is shown comes first: for the way back to it.
      let made = location.search || frame().querySelector("#refusal, .fault:not(:empty)") ? await make(location.pathname, true) : await keep(location.pathname, frame());
      for (let i = 0; made && i < 200; i++) {
        for (const url of made.beside) {
          await make(url, i < soon);
        }
        if (!made.then) {
          document.documentElement.dataset.prefetch = head;
          return;
        }
        made = await make(made.then, i < soon);
      }
    } catch {
      // The network went; what is here stays.
    } finally {
      walking = false;
    }
  };

  // ---- From page to page without a network. Where the work is follows from what was pressed last.
  let pushed = false;
  const newest = async () => (await Promise.all(frame().dataset.steps.split(" ").map(device.page))).filter(Boolean).sort((a, b) => Number(b.head) - Number(a.head)).map((p) => p.url);
  const go = async (url) => {
    const to = new URL(url, location.origin);
    const job = frame().dataset.job;
    const last = device.last((await device.waiting()).filter((i) => i.job === job));
    const back = to.pathname === `/jobs/${job}` || (device.isStep(to.pathname) && (to.search === "" || !device.isStep(location.pathname)));
    const places = back ? [last?.then, to.pathname, ...(await newest())] : [to.pathname + to.search];
    for (const place of places) {
      if (place && (await showPrefetched(place))) {
        const path = place.split("?")[0];
        pushed = true;
        history.pushState({ kept: true }, "", device.isStep(path) ? path : place);
        document.dispatchEvent(new CustomEvent("screeline:shown"));
        return;
      }
    }
    if (await window.caches?.match(to.href, { ignoreSearch: back })) {
      location.assign(to.href);
      return;
    }
    device.say("That page is not on this device. It comes when the network is back.");
  };
  document.addEventListener("click", (event) => {
    const link = event.target.closest("#frame a[href]");
    if (!link || !(now.away || now.line > 0) || event.defaultPrevented || event.ctrlKey || event.metaKey || event.shiftKey) {
      return;
    }
    const to = new URL(link.getAttribute("href"), location.href);
    const here = frame().dataset.job;
    if (to.origin === location.origin && here && (to.pathname === `/jobs/${here}` || to.pathname.startsWith(`/jobs/${here}/`)) && !link.getAttribute("href").startsWith("#") && !link.hasAttribute("download")) {
      event.preventDefault();
      go(to.pathname + to.search).catch((error) => device.say(`That page cannot be shown: ${error?.message ?? error}`));
    }
  });
  // The browser's own way back from a page that was shown from here.
  window.addEventListener("popstate", () => {
    if (!pushed) {
      return;
    }
    if (now.away || now.line > 0) {
      go(location.pathname + location.search).catch(() => {});
    } else {
      location.reload();
    }
  });

  Object.assign(device, { show, showPrefetched, renew, prefetch });
})();
