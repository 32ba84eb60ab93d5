// The ruler of minutes: point to add or remove a mark, or fill it evenly. The field holds the data.
"use strict";

document.addEventListener("alpine:init", () => {
  Alpine.data("marks", () => ({
    text: "",
    until: "",

    init() {
      const field = document.getElementById(this.$root.dataset.field);
      this.text = field.value;
      const all = this.minutes();
      this.until = String(all[all.length - 1] ?? 30);
    },

    minutes() {
      const found = this.text.split(/[\s,;]+/).map(Number);
      return [...new Set(found.filter((m) => Number.isFinite(m) && m >= 0))].sort((a, b) => a - b);
    },

    get count() {
      return `${this.minutes().length} readings of each build`;
    },

    get path() {
      return this.minutes()
        .filter((m) => m <= 60)
        .map((m) => `M${20 + m * 16} 4V50`)
        .join("");
    },

    even() {
      const step = Number(this.$event.target.dataset.step);
      const end = Math.min(Number(this.until) || 30, 360);
      const all = [];
      for (let m = 0; m < end; m += step) all.push(m);
      this.text = [...all, end].join(", ");
    },

    point() {
      const box = this.$refs.ruler.getBoundingClientRect();
      const x = ((this.$event.clientX - box.left) / box.width) * 1000;
      const minute = Math.min(60, Math.max(0, Math.round((x - 20) / 16)));
      const all = this.minutes();
      const kept = all.includes(minute) ? all.filter((m) => m !== minute) : [...all, minute];
      if (!kept.includes(0)) kept.push(0);
      this.text = kept.sort((a, b) => a - b).join(", ");
    },
  }));
});
