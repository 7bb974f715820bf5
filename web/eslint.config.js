import importX from "eslint-plugin-import-x";
import a11y from "eslint-plugin-jsx-a11y";
import hooks from "eslint-plugin-react-hooks";
import ts from "typescript-eslint";

/** A room may ask only those named after it: shared knows nobody, the table no station, no station another. */
const rooms = {
  shared: ["api"],
  api: ["shared"],
};

export default ts.config(
  { ignores: ["src/api/schema.ts"] },
  {
    files: ["src/**/*.{ts,tsx}"],
    extends: [ts.configs.recommended, a11y.flatConfigs.recommended],
    plugins: { "react-hooks": hooks, "import-x": importX },
    rules: {
      "react-hooks/rules-of-hooks": "error",
      "react-hooks/exhaustive-deps": "error",
      "import-x/order": [
        "error",
        {
          groups: ["builtin", "external", ["parent", "sibling", "index"]],
          alphabetize: { order: "asc" },
          "newlines-between": "always",
        },
      ],
      "import-x/no-cycle": "error",
      complexity: ["error", 20],
      "max-lines-per-function": ["error", { max: 200, skipBlankLines: true, skipComments: true }],
      "@typescript-eslint/no-non-null-assertion": "off",
      "@typescript-eslint/consistent-type-imports": ["error", { fixStyle: "inline-type-imports" }],
    },
  },
);
