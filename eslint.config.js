import js from "@eslint/js";
import hooks from "eslint-plugin-react-hooks";
import globals from "globals";
import ts from "typescript-eslint";

export default ts.config(
  { ignores: ["**/dist/**", "target/**", ".kestrel/**", "web/src/api/schema.d.ts", "e2e/test-results/**"] },
  js.configs.recommended,
  ...ts.configs.strict,
  hooks.configs.flat["recommended-latest"],
  {
    languageOptions: { globals: { ...globals.browser, ...globals.node } },
    rules: { "no-restricted-exports": ["error", { restrictDefaultExports: { direct: true } }] },
  },
  { files: ["**/*.config.*", "eslint.config.js"], rules: { "no-restricted-exports": "off" } },
);
