// A wait that counts down, by the clock that runs with the page, from when it was first shown: a date can be set, and a page made beforehand
// is of another moment. The server says again how it stands whenever a page is made.
document.addEventListener("alpine:init", () => {
  Alpine.data("timer", () => ({
    seconds: 0,
    init() {
      const [shown, left] = [performance.now(), Number(this.$root.dataset.left)];
      const count = () => { this.seconds = Math.ceil((left - (performance.now() - shown)) / 1000); };
      count();
      this.every = setInterval(count, 1000);
    },
    destroy() {
      clearInterval(this.every);
    },
    get over() {
      return { "timer-over": this.seconds <= 0 };
    },
    get words() {
      return this.seconds <= 0 ? "over" : this.seconds < 120 ? `${this.seconds} s left` : `${Math.ceil(this.seconds / 60)} min left`;
    },
  }));
});
