// What is kept is what stands in the fields now, also when the answer on screen is a moment older.
document.addEventListener("submit", (event) => {
  if (event.target.id === "keep-form") {
    const fields = new FormData(document.getElementById("set-form"));
    event.target.elements.asked.value = new URLSearchParams([...fields].filter(([, value]) => typeof value === "string" && value !== "")).toString();
  }
}, true);

// A drawing that moves. Everything works without: it shows the angle in its address. The server gives positions in steps of the crank;
// between them points go straight on. It is named on the page, which stays while the answer with drawing and slider is exchanged.
document.addEventListener("alpine:init", () => {
  Alpine.data("player", () => {
    let angle = null;
    let rate = 45;
    let last = 0;
    let frames = null;
    const read = (root) => {
      frames = JSON.parse(root.querySelector("#frames").textContent);
      const number = (part) => Number(part.dataset.part.slice(1));
      for (const set of ["r", "f"]) {
        frames[`${set}-parts`] = [...root.querySelectorAll(`[data-part^="${set}"]`)].sort((a, b) => number(a) - number(b));
      }
    };
    const draw = (root, at) => {
      const { from, to } = frames;
      const crank = frames.turns ? from + ((((at - from) % (to - from)) + (to - from)) % (to - from)) : Math.min(to, Math.max(from, at));
      for (const set of ["r", "f"].filter((s) => frames[s])) {
        const rows = frames[set];
        const place = ((crank - from) / (to - from)) * (rows.length - 1);
        const row = Math.min(rows.length - 2, Math.floor(place));
        const [a, b, share] = [rows[row], rows[row + 1], place - row];
        frames[`${set}-parts`].forEach((part, k) => {
          const p = (i) => (a[4 * k + i] + share * (b[4 * k + i] - a[4 * k + i])).toFixed(1);
          part.setAttribute("d", `M${p(0)} ${p(1)}L${p(2)} ${p(3)}`);
        });
      }
      root.querySelector("#player").value = String(Math.round(crank));
      root.querySelector("#player-angle").textContent = `${Math.round(crank)}°`;
    };
    return {
      playing: false,
      get word() {
        return this.playing ? "Stop" : "Play";
      },
      // Another answer has come: what is drawn now stands where the one before stood.
      fresh() {
        read(this.$root);
        rate = Number(this.$root.querySelector("[name=rate]:checked").value);
        if (angle !== null && !this.playing) {
          draw(this.$root, angle);
        }
      },
      slide(event) {
        this.playing = false;
        angle = Number(event.target.value);
        draw(this.$root, angle);
      },
      pace(event) {
        rate = Number(event.target.value);
      },
      press() {
        this.playing = !this.playing;
        if (this.playing) {
          angle = frames.turns ? angle ?? frames.park ?? 0 : 0;
          last = performance.now();
          requestAnimationFrame((time) => this.move(time));
        }
      },
      move(time) {
        if (!this.playing || !this.$root.querySelector("#player")) {
          this.playing = false;
          return;
        }
        // 45 turns a minute are 270 degrees a second; a reversing motor goes there and back.
        const moved = ((time - last) / 1000) * rate * 6;
        last = time;
        if (frames.turns) {
          angle += moved;
          draw(this.$root, angle);
        } else {
          const range = frames.to - frames.from;
          angle = (angle + moved) % (2 * range);
          draw(this.$root, frames.from + (angle < range ? angle : 2 * range - angle));
        }
        requestAnimationFrame((next) => this.move(next));
      },
    };
  });
});
