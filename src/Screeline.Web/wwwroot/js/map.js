// The drawn map of the editor: arrow keys walk through its parts, Enter or a tap opens a part, or takes it into what the step in hand comes off after.
(() => {
  const parts = (figure) => [...figure.querySelectorAll("[data-part]")];
  const place = (part) => [Number(part.dataset.lane), Number(part.dataset.row)];

  // The nearest part in the direction: along a lane down and up, across lanes left and right.
  function next(from, key, all) {
    const [lane, row] = place(from);
    const across = key === "ArrowLeft" || key === "ArrowRight";
    const forward = key === "ArrowRight" || key === "ArrowDown" ? 1 : -1;
    const away = (part) => {
      const [l, r] = place(part);
      const [along, aside] = across ? [(l - lane) * forward, Math.abs(r - row)] : [(r - row) * forward, Math.abs(l - lane)];
      return along <= 0 ? Infinity : across ? along * 1000 + aside : aside * 1000 + along;
    };
    return all.filter((part) => away(part) < Infinity).sort((a, b) => away(a) - away(b))[0];
  }

  function show(part) {
    const figure = part.closest("[data-map]");
    parts(figure).forEach((p) => p.setAttribute("tabindex", p === part ? "0" : "-1"));
    figure.querySelectorAll(".d-leans").forEach((line) => line.classList.remove("d-leans"));
    figure.querySelectorAll(`[data-to="${CSS.escape(part.dataset.part)}"]`).forEach((line) => line.classList.add("d-leans"));
    const words = figure.querySelector(".map-leans");
    if (words) {
      words.textContent = part.dataset.leans;
    }
  }

  // What the step in hand comes off after: ticked or not in the way that was touched last.
  let way = "n-0";
  function choose(part) {
    const form = document.getElementById("map-form");
    const chooser = form.querySelector(`select[name="${way}"]`) ?? form.querySelector('select[name="n-0"]');
    if (!chooser || part.dataset.part === form.elements.current?.value) {
      const open = document.createElement("button");
      Object.assign(open, { name: "go", value: part.dataset.part, hidden: true });
      form.append(open);
      open.click();
      return;
    }
    const ticked = form.querySelector(`input[type=checkbox][name="${chooser.name}"][value="${CSS.escape(part.dataset.part)}"]`);
    if (ticked) {
      ticked.click();
    } else {
      chooser.value = part.dataset.part;
      chooser.dispatchEvent(new Event("change", { bubbles: true }));
    }
  }

  document.addEventListener("focusin", (event) => {
    const named = event.target.name ?? "";
    way = /^n-\d+$/.test(named) ? named : way;
    const part = event.target.closest?.("[data-part]");
    if (part) {
      show(part);
    }
  });
  document.addEventListener("keydown", (event) => {
    const part = event.target.closest?.("[data-part]");
    if (!part) {
      return;
    }
    if (event.key.startsWith("Arrow")) {
      event.preventDefault();
      next(part, event.key, parts(part.closest("[data-map]")))?.focus();
    } else if (event.key === "Enter" || event.key === " ") {
      event.preventDefault();
      choose(part);
    }
  });
  document.addEventListener("click", (event) => {
    const part = event.target.closest?.("[data-part]");
    if (part) {
      choose(part);
    }
  });
})();
