// A field with a button on either side that adds its step; without scripts the figure is typed.
document.addEventListener("alpine:init", () => {
  document.documentElement.classList.add("scripted");
  Alpine.data("stepper", () => ({
    press(event) {
      const field = this.$root.querySelector("input");
      const step = event.currentTarget.dataset.step;
      const next = Number((field.value || field.placeholder || "0").replace(",", ".")) + Number(step);
      if (Number.isFinite(next)) {
        const digits = (step.split(".")[1] || "").length;
        field.value = String(Number(next.toFixed(Math.max(digits, 2))));
        field.dispatchEvent(new Event("input", { bubbles: true }));
      }
    },
  }));
});
