// What pages gain with scripts. Every form and link works without them.
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
    stay = event.target.matches(".check, .seam-row form, .unaccounted form") ? { path: location.pathname, top: window.scrollY } : null;
  }, true);

  // After an entry is kept the hand is needed at what comes next: a field that waits, an open check, else the main action.
  document.addEventListener("htmx:after:swap", (event) => {
    // While one types only the answer beside the fields changes; the hand stays in its field, and the page where it is.
    if (event.detail?.ctx?.sourceEvent?.type === "input") {
      document.querySelectorAll("[aria-describedby$='-fault']").forEach((field) => {
        const wrong = document.getElementById(field.getAttribute("aria-describedby"))?.textContent !== "";
        field.classList.toggle("is-invalid", wrong);
        field.ariaInvalid = wrong ? "true" : null;
      });
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

  document.addEventListener("alpine:init", () => Alpine.data("paper", () => ({ print: () => window.print() })));

  // What others did came by itself; what is half typed stays.
  document.addEventListener("screeline:shown", restore);
  // After the parts that listen to fields have begun to.
  document.addEventListener("alpine:initialized", restore);
  window.addEventListener("pageshow", (event) => event.persisted && restore());
})();
