// What pages gain with scripts. Every form and link works without them.
document.addEventListener("alpine:init", () => {
  // Tells what a figure will be kept as while it is typed, so that a slip is seen before it is sent. The server has the last word.
  Alpine.data("reading", () => ({
    typed: "",
    // A refused figure comes back in its field; it must not be overwritten by the empty start.
    init() {
      this.typed = this.$root.querySelector("#value")?.value ?? "";
    },
    get echo() {
      const match = this.typed.trim().match(/^([+-]?[0-9]*[.,]?[0-9]+)\s*([^0-9\s].*)?$/);
      if (this.typed.trim() === "") {
        return "";
      }
      return match ? `${match[1].replace(",", ".")} ${match[2] ?? this.$root.dataset.unit}` : "Not a figure yet";
    },
  }));
});

(() => {
  const notice = (text) => {
    const place = document.getElementById("notice");
    if (place) {
      place.classList.remove("notice-good");
      place.textContent = text;
      place.hidden = text === "";
    }
  };

  // Several checks of one page are kept one after the other: the page stays where it was.
  let stay = null;
  document.addEventListener("submit", (event) => {
    stay = event.target.matches(".check, .row form, .unaccounted form") ? { path: location.pathname, top: window.scrollY } : null;
  }, true);

  // After an entry is kept the hand is needed at what comes next: a field that waits, an open check, else the main action.
  document.addEventListener("htmx:after:swap", (event) => {
    // While one types only the answer beside the fields changes; the hand stays in its field, and the page where it is.
    if (event.detail?.ctx?.sourceEvent?.type === "input") {
      return;
    }
    const fault = document.querySelector("#frame .fault:not(:empty), #refusal");
    if (fault) {
      const field = fault.id && document.querySelector(`[aria-describedby="${fault.id}"]`);
      (field || fault).scrollIntoView({ block: "nearest" });
      if (field) {
        field.focus();
      }
      return;
    }
    const staying = stay !== null && stay.path === location.pathname;
    const open = staying ? ".row-check:has(> .mark-todo) .check-enter input, .row-check:has(> .mark-todo) .check-enter button, .row-tool form button" : "[data-next]";
    window.scrollTo(0, staying ? stay.top : 0);
    const next = document.querySelector(`#frame :is(${open})`) ?? document.querySelector("#frame [data-main]");
    next?.focus({ preventScroll: !staying });
    stay = null;
  });

  // What did not arrive was not kept, and stays in its form.
  document.addEventListener("htmx:response:error", (event) => {
    const status = event.detail?.ctx?.response?.status ?? 0;
    if (status >= 500) {
      rememberAll();
      notice("Not kept: the server cannot work just now. What you typed is still here; press again.");
    }
  });
  document.addEventListener("htmx:error", () => {
    rememberAll();
    notice("Not kept: no answer. What you typed is still here; press again.");
  });

  // What is typed and not yet sent outlives a reload, a closed tab of the same window and the way back; sending it ends it.
  const typed = "form[method=post] :is(input:not([type=hidden], [type=file]), textarea, select), :is(input, textarea, select)[form]";
  // A draft belongs to what its form is about: the same field at another step is another one.
  const draftOf = (field) => {
    const about = ["step", "test", "check", "target", "fastener"].map((name) => field.form?.querySelector(`input[type=hidden][name=${name}]`)?.value ?? "");
    const box = field.type === "radio" || field.type === "checkbox" ? field.value : "";
    return ["draft", location.pathname, field.form?.getAttribute("action") ?? "", ...about, field.name, box].join(" ");
  };
  const remember = (field) => sessionStorage.setItem(draftOf(field), field.type === "checkbox" || field.type === "radio" ? String(field.checked) : field.value);
  const fieldsOf = (form) => [...form.elements].filter((field) => field.name && field.matches(typed));
  document.addEventListener("input", (event) => {
    if (event.target.name && event.target.matches(typed)) {
      const field = event.target;
      (field.type === "radio" ? fieldsOf(field.form).filter((other) => other.name === field.name) : [field]).forEach(remember);
    }
  });
  document.addEventListener("submit", (event) => {
    fieldsOf(event.target).forEach((field) => sessionStorage.removeItem(draftOf(field)));
  });
  const restore = () => document.querySelectorAll(typed).forEach((field) => {
    const draft = field.name ? sessionStorage.getItem(draftOf(field)) : null;
    if (draft === null) {
      return;
    }
    if (field.type === "checkbox" || field.type === "radio") {
      field.checked = draft === "true";
    } else if (field.value !== draft) {
      field.value = draft;
      field.dispatchEvent(new Event("input", { bubbles: true }));
    }
  });
  const rememberAll = () => document.querySelectorAll("form[method=post]").forEach((form) => fieldsOf(form).filter((field) => field.value !== field.defaultValue || field.checked !== field.defaultChecked).forEach(remember));

  // A pedal, or a knuckle on Page Down, presses the main action of the step runner.
  document.addEventListener("keydown", (event) => {
    const typing = event.target.closest?.("input:not([type=radio]):not([type=checkbox]), textarea, select");
    if (event.key === "PageDown" && !event.repeat && !typing && document.querySelector("[data-pedal]")) {
      event.preventDefault();
      document.querySelector("[data-pedal] [data-main]")?.click();
    }
  });

  // Arrow keys look at the step before and after.
  document.addEventListener("keydown", (event) => {
    if ((event.key === "ArrowLeft" || event.key === "ArrowRight") && !event.altKey && !event.target.closest?.("input, textarea, select")) {
      document.querySelector(event.key === "ArrowLeft" ? ".step-back" : ".step-on")?.click();
    }
  });

  document.addEventListener("click", (event) => {
    if (event.target.closest("[data-print]")) {
      window.print();
    }

    if (event.target.closest("a[href='#exceptions']")) {
      const rows = document.getElementById("not-as-planned");
      rows.open = true;
      rows.scrollIntoView({ block: "start" });
      rows.querySelector("button, a")?.focus({ preventScroll: true });
      event.preventDefault();
    }
  });

  // Waits count down; the server says again how they stand whenever a page is made.
  const tick = () => {
    document.querySelectorAll(".timer[data-until]").forEach((timer) => {
      const left = timer.querySelector(".timer-left");
      const seconds = Math.ceil((Number(timer.dataset.until) - Date.now()) / 1000);
      const words = seconds <= 0 ? "over" : seconds < 120 ? `${seconds} s left` : `${Math.ceil(seconds / 60)} min left`;
      if (left.textContent !== words) {
        left.textContent = words;
        timer.classList.toggle("timer-over", seconds <= 0);
      }
    });
  };
  setInterval(tick, 1000);
  // What others did came by itself; what is half typed stays.
  document.addEventListener("screeline:shown", restore);
  // After the parts that listen to fields have begun to.
  document.addEventListener("alpine:initialized", restore);
  window.addEventListener("pageshow", (event) => event.persisted && restore());
})();
