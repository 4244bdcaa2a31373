// Drawings that move. Everything works without: the drawing shows the angle in its address.
(() => {
  // What is kept is what stands in the fields now, also when the answer on screen is a moment older.
  document.addEventListener("submit", (event) => {
    if (event.target.id === "keep-form") {
      const fields = new FormData(document.getElementById("set-form"));
      event.target.elements.asked.value = new URLSearchParams([...fields].filter(([, value]) => typeof value === "string" && value !== "")).toString();
    }
  }, true);

  // The moving drawing: the server gives positions in steps of the crank; between them points go straight on.
  let angle = null;
  let playing = false;
  let last = 0;
  let frames = null;
  let source = null;
  const load = () => {
    const data = document.getElementById("frames");
    if (data !== source) {
      source = data;
      frames = data ? JSON.parse(data.textContent) : null;
      if (frames) {
        frames.parts = {};
        for (const set of ["r", "f"]) {
          frames.parts[set] = frames[set] ? [...document.querySelectorAll(`[data-part^="${set}"]`)].sort((a, b) => Number(a.dataset.part.slice(1)) - Number(b.dataset.part.slice(1))) : [];
        }
      }
    }
    return frames;
  };
  const show = (at) => {
    if (!load()) {
      return;
    }
    const { from, to } = frames;
    const crank = frames.turns ? from + ((((at - from) % (to - from)) + (to - from)) % (to - from)) : Math.min(to, Math.max(from, at));
    for (const set of ["r", "f"]) {
      const rows = frames[set];
      if (!rows) {
        continue;
      }
      const place = ((crank - from) / (to - from)) * (rows.length - 1);
      const row = Math.min(rows.length - 2, Math.floor(place));
      const [a, b, share] = [rows[row], rows[row + 1], place - row];
      frames.parts[set].forEach((part, k) => {
        const p = (i) => (a[4 * k + i] + share * (b[4 * k + i] - a[4 * k + i])).toFixed(1);
        part.setAttribute("d", `M${p(0)} ${p(1)}L${p(2)} ${p(3)}`);
      });
    }
    const slider = document.querySelector("[data-player]");
    if (slider) {
      slider.value = String(Math.round(crank));
      document.getElementById("player-angle").textContent = `${Math.round(crank)}°`;
    }
  };
  const step = (time) => {
    if (!playing || !load()) {
      playing = false;
      return;
    }
    // 45 turns a minute are 270 degrees a second; a reversing motor goes there and back.
    const rate = Number(document.querySelector("[data-rate]:checked")?.value ?? 45) * 6;
    const moved = ((time - last) / 1000) * rate;
    last = time;
    if (frames.turns) {
      angle += moved;
      show(angle);
    } else {
      const range = frames.to - frames.from;
      angle = (angle + moved) % (2 * range);
      show(frames.from + (angle < range ? angle : 2 * range - angle));
    }
    requestAnimationFrame(step);
  };
  const words = () => {
    const button = document.querySelector("[data-play]");
    if (button) {
      button.textContent = playing ? "Stop" : "Play";
      button.setAttribute("aria-pressed", String(playing));
    }
  };
  document.addEventListener("input", (event) => {
    if (event.target.matches("[data-player]")) {
      // The slider moves the drawing; it asks nothing of the server.
      event.stopPropagation();
      playing = false;
      angle = Number(event.target.value);
      show(angle);
      words();
    } else if (event.target.matches("[data-rate]")) {
      event.stopPropagation();
    }
  }, true);
  document.addEventListener("click", (event) => {
    if (event.target.closest("[data-play]")) {
      playing = !playing && load() !== null;
      angle = frames && !frames.turns ? 0 : angle ?? frames?.park ?? 0;
      last = performance.now();
      words();
      if (playing) {
        requestAnimationFrame(step);
      }
    }
  });
  document.addEventListener("htmx:after:swap", () => {
    if (load() && angle !== null && !playing) {
      show(angle);
    }
    words();
  });
})();
