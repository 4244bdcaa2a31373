// The step runner: pedal, arrow keys, the way to what is not as planned, and waits that count down.
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

  document.addEventListener("click", (event) => {
    if (event.target.closest("a[href='#exceptions']")) {
      const rows = document.getElementById("not-as-planned");
      rows.open = true;
      rows.scrollIntoView({ block: "start" });
      rows.querySelector("button, a")?.focus({ preventScroll: true });
      event.preventDefault();
    }
  });

  // Waits count down by the clock that runs with the page, from when they were first shown: a date can be set, and a page made beforehand
  // is of another moment. The server says again how they stand whenever a page is made.
  const shown = new WeakMap();
  const tick = () => {
    document.querySelectorAll(".timer[data-left]").forEach((timer) => {
      if (!shown.has(timer)) {
        shown.set(timer, performance.now());
      }
      const left = timer.querySelector(".timer-left");
      const seconds = Math.ceil((Number(timer.dataset.left) - (performance.now() - shown.get(timer))) / 1000);
      const words = seconds <= 0 ? "over" : seconds < 120 ? `${seconds} s left` : `${Math.ceil(seconds / 60)} min left`;
      if (left.textContent !== words) {
        left.textContent = words;
        timer.classList.toggle("timer-over", seconds <= 0);
      }
    });
  };
  setInterval(tick, 1000);
})();
