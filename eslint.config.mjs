export default [
  {
    files: ["thermion/web/static/js/*.js"],
    languageOptions: {
      ecmaVersion: 2023,
      sourceType: "script",
      globals: {
        Alpine: "readonly", Intl: "readonly", AudioContext: "readonly", performance: "readonly", clearTimeout: "readonly", console: "readonly",
        crypto: "readonly", DOMParser: "readonly", DOMPoint: "readonly", Event: "readonly", document: "readonly", fetch: "readonly", localStorage: "readonly",
        location: "readonly", setInterval: "readonly", setTimeout: "readonly", window: "readonly",
      },
    },
    rules: {
      "no-undef": "error", "no-unused-vars": "error", "no-shadow": "error", eqeqeq: "error",
      "prefer-const": "error", "no-var": "error", "no-implicit-globals": "off",
      "no-constant-condition": "error", "no-unreachable": "error", "no-dupe-keys": "error",
    },
  },
];
