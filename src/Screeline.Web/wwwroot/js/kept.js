// The line that tells what is kept on this device and not yet sent, and asks where an entry clashed. The queue says what waits.
document.addEventListener("alpine:init", () => {
  const device = window.screeline;
  Alpine.data("kept", () => ({
    items: [],
    signIn: false,
    init() {
      device?.tell();
    },
    told(event) {
      Object.assign(this, event.detail);
    },
    get none() {
      return this.items.length === 0;
    },
    get count() {
      return `${this.items.length} kept here, not yet sent`;
    },
    get signedIn() {
      return !this.signIn;
    },
    get way() {
      return `/sign-in?back=${encodeURIComponent(location.pathname)}`;
    },
    get lines() {
      return this.items.map((i) => ({ n: i.n, words: `Job ${i.job}, ${device.clock(i.at)}: ${i.words}` }));
    },
    // What the server did not take as it was: the choice is a person's.
    get choices() {
      return this.items.filter((i) => i.state !== "waiting").map((i) => {
        const clash = i.state === "clash";
        return {
          n: i.n,
          title: clash ? `Job ${i.job}: somebody else came first.` : `Job ${i.job}: not taken.`,
          there: clash ? `There: ${(i.theirs ?? []).join(" ")}` : `${i.words}. ${i.reason ?? ""}`,
          here: clash ? `Here: ${(i.yours ?? [i.words]).join(" ")}` : "",
          again: clash ? "Keep mine too" : "Send it again",
        };
      });
    },
    send() {
      device.sendNow();
    },
    keep(event) {
      device.sendAgain(Number(event.currentTarget.dataset.n));
    },
    leave(event) {
      device.leave(Number(event.currentTarget.dataset.n));
    },
  }));
});
