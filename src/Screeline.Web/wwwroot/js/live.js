// What others do on the same job comes by itself: one stream for the page that is looked at.
(() => {
  const device = window.screeline;
  if (!device) {
    return;
  }
  const { frame, now } = device;
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
  const busy = () => now.requests > 0 || now.line > 0 || now.flight !== null;
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
      device.say("Somebody else kept something on this job. It shows when you leave this field.");
      field.addEventListener("blur", () => { device.say(""); setTimeout(() => grown(head), 50); }, { once: true });
      return;
    }
    refresh(false).catch(() => {});
  };
  const refresh = async (own) => {
    if (frame().dataset.grows !== "yes") {
      return;
    }
    const query = new URLSearchParams(location.search);
    ["handler", "as_if"].forEach((name) => query.delete(name));
    if (own) {
      query.delete("step");
    }
    const response = await fetch(location.pathname + (query.size > 0 ? `?${query}` : ""), { headers: { "HX-Request": "true" }, cache: "no-store" });
    if (response.ok && !response.redirected && !busy()) {
      device.show(await response.text(), !own);
      device.prefetch();
    }
  };

  document.addEventListener("visibilitychange", listen);
  window.addEventListener("pagehide", () => { stream?.close(); listened = ""; });
  window.addEventListener("pageshow", listen);
  Object.assign(device, { listen, refresh });
})();
