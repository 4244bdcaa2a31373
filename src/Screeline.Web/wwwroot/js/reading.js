// Readings: an echo beside the field.
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
