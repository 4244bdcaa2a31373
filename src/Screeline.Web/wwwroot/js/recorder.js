// Recording without a network: the page stays as it was made, so what was pressed moves the next cell on here.
document.addEventListener("alpine:init", () => {
  Alpine.data("recorder", () => ({
    out: false,
    kept(event) {
      const form = event.detail.form;
      if (form.querySelector("[name=count], [name=many]")) {
        this.out = !event.detail.item.fields.some(([name, value]) => name === "stays" && value === "yes");
        form.querySelectorAll("input[type=radio]").forEach((field) => { field.checked = false; });
      } else if (form.matches("[data-taken]") && this.out) {
        this.out = false;
        this.$root.querySelectorAll("[data-cell]").forEach((field) => { field.value = field.value ? String(Number(field.value) + 1) : ""; });
        this.$root.querySelectorAll("[data-cell-words]").forEach((words) => { words.textContent = String(Number(words.textContent) + 1); });
      }
    },
  }));
});
