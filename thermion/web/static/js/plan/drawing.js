// The drawing of a plan: a place is pointed at, a factor is pulled by its handle or its slider.

export const drawing = {
  choose() {
    this.select(this.$event.currentTarget.dataset.place);
  },

  pointed() {
    const place = this.$event.target.closest("[data-place]");
    if (place) this.select(place.dataset.place);
  },

  // ---- handles: a factor is pulled on the drawing; its slider says the same in a number
  grab() {
    const event = this.$event;
    const handle = event.target.closest("[data-handle]");
    if (!handle) return;
    event.preventDefault();
    const svg = handle.ownerSVGElement;
    const toDrawing = svg.getScreenCTM().inverse();
    const input = this.page.querySelector(`[data-factor="${handle.dataset.handle}"]`);
    const numbers = (text) => (text || "").split(" ").map(Number);
    this.drag = {
      toDrawing,
      input,
      from: new DOMPoint(event.clientX, event.clientY).matrixTransform(toDrawing),
      value: Number(input.value),
      step: numbers(handle.dataset.step),
      about: handle.dataset.about ? numbers(handle.dataset.about) : null,
      turn: Number(handle.dataset.turn),
    };
  },

  pull(event) {
    const d = this.drag;
    if (!d) return;
    const at = new DOMPoint(event.clientX, event.clientY).matrixTransform(d.toDrawing);
    let more;
    if (d.about) {
      const angle = (p) => (Math.atan2(d.about[1] - p.y, p.x - d.about[0]) * 180) / Math.PI;
      const turned = ((angle(at) - angle(d.from) + 540) % 360) - 180;
      more = turned / d.turn;
    } else {
      const [sx, sy] = d.step;
      more = ((at.x - d.from.x) * sx + (at.y - d.from.y) * sy) / (sx * sx + sy * sy);
    }
    const before = d.input.value;
    d.input.value = String(d.value + more); // the slider keeps to its ends and steps
    if (d.input.value !== before) d.input.dispatchEvent(new Event("input", { bubbles: true }));
  },

  select(key) {
    this.at = key;
    const button = this.page.querySelector(`button[data-place="${key}"]`);
    this.job = button ? button.dataset.job : "";
    for (const g of this.picture.querySelectorAll("[data-place]"))
      g.classList.toggle("d-chosen", g.dataset.place === key);
  },

  turn() {
    const input = this.$event.target;
    this.state.factors[input.dataset.factor] = Number(input.value);
    const out = this.page.querySelector(`[data-out="${input.dataset.factor}"]`);
    out.textContent = input.value.replace(".", this.decimal);
    this.soon(60);
  },
};
