// The step runner: pedal, arrow keys, and the way to what is not as planned.
(() => {
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

  // The way to what is not as planned opens it.
  document.addEventListener("alpine:init", () => Alpine.data("exceptions", () => ({
    open() {
      const rows = document.getElementById("not-as-planned");
      rows.open = true;
      rows.scrollIntoView({ block: "start" });
      rows.querySelector("button, a")?.focus({ preventScroll: true });
    },
  })));
})();
