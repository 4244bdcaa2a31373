// Pictures and what is pinned on them. A tap tells its place in hundredths, whatever the size the picture is shown at; without a network
// the pin is drawn here, and a picture that was just taken can be pinned too.
(() => {
  document.addEventListener("alpine:init", () => Alpine.data("pin", () => ({
    tap(event) {
      const { currentTarget: picture, clientX, clientY } = event;
      // Pressed by key: the form goes as it is, and the server asks where.
      if (clientX) {
        event.preventDefault();
        const box = picture.getBoundingClientRect();
        picture.form.elements.x.value = (((clientX - box.left) / box.width) * 100).toFixed(2);
        picture.form.elements.y.value = (((clientY - box.top) / box.height) * 100).toFixed(2);
        picture.form.requestSubmit();
      }
    },
  })));

  // ---- What is kept on this device is drawn as the server will.
  const svg = (name, attributes, parent) => {
    const e = document.createElementNS("http://www.w3.org/2000/svg", name);
    Object.entries(attributes).forEach(([key, value]) => e.setAttribute(key, value));
    parent.append(e);
    return e;
  };
  const pins = () => document.querySelector(".pin-picture .pinned svg");
  const tapped = (form) => {
    const on = pins();
    const field = (name) => Number(form.elements[name].value);
    const [x, y] = [field("x"), (field("y") * on.viewBox.baseVal.height) / 100];
    const mark = form.querySelector("input[name=mark]:checked")?.value ?? document.querySelector("input[name=mark]:checked")?.value ?? "screw";
    const last = on.querySelector(".pin:last-of-type");
    if (mark === "wire-on" && last?.querySelector("polyline")) {
      last.querySelectorAll("polyline").forEach((line) => line.setAttribute("points", `${line.getAttribute("points")} ${x},${y}`));
    } else {
      const pin = svg("g", { class: "pin" }, on);
      if (mark.startsWith("wire")) {
        svg("polyline", { class: "pin-wire-case", points: `${x},${y}` }, pin);
        svg("polyline", { class: "pin-wire", points: `${x},${y}` }, pin);
      }
      svg("use", { href: `#pin-${mark === "wire-on" ? "wire" : mark}`, x, y }, pin);
      if (!mark.startsWith("wire")) {
        svg("text", { x, y: y + 1.1 }, pin).textContent = on.querySelectorAll(".pin").length;
      }
    }
    again();
    if (mark === "wire") {
      document.querySelector("input[name=mark][value=wire-on]").checked = true;
    }
  };
  const back = () => {
    const last = pins().querySelector(".pin:last-of-type");
    const points = last?.querySelector("polyline")?.getAttribute("points").split(" ") ?? [];
    if (points.length > 1) {
      last.querySelectorAll("polyline").forEach((line) => line.setAttribute("points", points.slice(0, -1).join(" ")));
    } else {
      last?.remove();
    }
    again();
  };
  // A wire can be gone on with, and a tap undone, only where there is one.
  const again = () => {
    const all = pins().querySelectorAll(".pin");
    document.getElementById("wire-on").hidden = !all[all.length - 1]?.querySelector("polyline");
    document.getElementById("pin-back").hidden = all.length === 0;
  };

  // A picture that waits has a page of its own here, made from the empty one.
  const none = "00000000-0000-0000-0000-000000000000";
  const took = async (form, item) => {
    const device = window.screeline;
    const made = await device.page(form.dataset.prefetch);
    const entry = device.entryOf(item);
    const file = device.field(item, "picture");
    if (!made || !(file instanceof Blob)) {
      return;
    }
    const bitmap = await createImageBitmap(file);
    const canvas = document.createElement("canvas");
    canvas.width = Math.min(bitmap.width, 1200);
    canvas.height = Math.max(1, Math.round((canvas.width * bitmap.height) / bitmap.width));
    canvas.getContext("2d").drawImage(bitmap, 0, 0, canvas.width, canvas.height);
    const html = new DOMParser().parseFromString(made.html.replaceAll(none, entry), "text/html");
    html.querySelectorAll(".pin-picture :is(img, input[type=image])").forEach((i) => i.setAttribute("src", canvas.toDataURL("image/jpeg", 0.8)));
    html.querySelectorAll(".pin-picture img").forEach((i) => { i.setAttribute("width", canvas.width); i.setAttribute("height", canvas.height); });
    html.querySelector(".pin-picture svg").setAttribute("viewBox", `0 0 100 ${(100 * canvas.height) / canvas.width}`);
    const url = form.dataset.prefetch.replace(none, entry);
    await device.keepPage({ ...made, url, html: html.getElementById("frame").outerHTML, beside: [] });
    const link = document.createElement("a");
    link.className = "btn kept-here";
    link.href = url;
    link.textContent = "Picture kept here: tap where things are";
    form.after(link);
  };

  document.addEventListener("screeline:kept", (event) => {
    const { form, item } = event.detail;
    if (form.id === "pin-form") {
      tapped(form);
    } else if (form.id === "pin-back") {
      back();
    } else if (form.matches("[data-prefetch]")) {
      // One that cannot be shown is kept all the same.
      took(form, item).catch((error) => console.warn(error));
    }
  });
})();
