import js from "@eslint/js";
import a11y from "eslint-plugin-jsx-a11y";
import { createTypeScriptImportResolver } from "eslint-import-resolver-typescript";
import imports from "eslint-plugin-import-x";
import hooks from "eslint-plugin-react-hooks";
import globals from "globals";
import process from "node:process";
import ts from "typescript-eslint";

// Where LONG is set, as of the tests: all that a compiler of components would ask for, which costs as much as the rest.
const WHOLE = Boolean(process.env.LONG);
const RULES_OF_HOOKS = {
  "react-hooks/rules-of-hooks": "error",
  "react-hooks/exhaustive-deps": "error",
};

export default ts.config(
  { ignores: ["dist", "src/api/schema.ts"] },
  js.configs.recommended,
  ...ts.configs.recommendedTypeChecked,
  ...ts.configs.stylisticTypeChecked,
  WHOLE
    ? hooks.configs.flat["recommended-latest"]
    : { plugins: { "react-hooks": hooks }, rules: RULES_OF_HOOKS },
  a11y.flatConfigs.strict,
  {
    files: ["{src,tests}/**/*.{ts,tsx}"],
    languageOptions: {
      globals: globals.browser,
      parserOptions: { projectService: true, tsconfigRootDir: import.meta.dirname },
    },
    linterOptions: { reportUnusedDisableDirectives: WHOLE ? "error" : "off" },
    plugins: { "import-x": imports },
    settings: { "import-x/resolver-next": [createTypeScriptImportResolver()] },
    rules: {
      "import-x/no-cycle": "error",
      "import-x/no-unresolved": "error",
      "import-x/no-self-import": "error",
      "import-x/no-duplicates": "error",
      "import-x/first": "error",
      "max-lines": ["error", { max: 320 }],
      "max-len": ["error", { code: 120, ignoreStrings: true, ignoreTemplateLiterals: true }],
      "@typescript-eslint/no-non-null-assertion": "error",
      "@typescript-eslint/restrict-template-expressions": ["error", { allowNumber: true }],
      "@typescript-eslint/no-misused-promises": [
        "error",
        { checksVoidReturn: { attributes: false } },
      ],
    },
  },
  { files: ["*.js", "*.ts"], ...ts.configs.disableTypeChecked },
);
