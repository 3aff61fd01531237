// What the linter asks of the viewer, of its tests and of the tests of the page.
import tseslint from "typescript-eslint";

const layout = {
  "max-len": ["error", { code: 100, ignoreUrls: true, ignoreTemplateLiterals: true }],
  "max-statements-per-line": ["error", { max: 1 }],
  "prefer-const": "error",
  eqeqeq: "error",
};
const sizes = {
  "max-lines": ["error", 400],
  "max-lines-per-function": ["error", { max: 50, skipComments: true }],
  "max-params": ["error", 6],
};

export default tseslint.config(
  // Made from the contract of a plan.
  { ignores: ["**/src/plan.ts", "**/src/plan-fields.ts", "**/.tests/**"] },
  { files: ["**/*.ts"], extends: [tseslint.configs.strict], rules: layout },
  { files: ["**/src/*.ts"], rules: sizes },
  { files: ["**/*.mjs"], extends: [tseslint.configs.recommended], rules: layout },
);
