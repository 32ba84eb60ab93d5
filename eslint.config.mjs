const names = [
  "Alpine",
  "AudioContext",
  "DOMParser",
  "DOMPoint",
  "Event",
  "Intl",
  "clearTimeout",
  "crypto",
  "document",
  "fetch",
  "localStorage",
  "location",
  "performance",
  "setInterval",
  "setTimeout",
  "window",
];

export default [
  {
    files: ["thermion/web/static/js/**/*.js"],
    languageOptions: {
      ecmaVersion: 2023,
      sourceType: "module",
      globals: Object.fromEntries(names.map((name) => [name, "readonly"])),
    },
    rules: {
      complexity: ["error", 12],
      eqeqeq: "error",
      "max-lines-per-function": ["error", 60],
      "no-constant-condition": "error",
      "no-dupe-keys": "error",
      "no-shadow": "error",
      "no-undef": "error",
      "no-unreachable": "error",
      "no-unused-vars": "error",
      "no-var": "error",
      "prefer-const": "error",
    },
  },
];
