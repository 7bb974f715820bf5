import importX from "eslint-plugin-import-x";
import a11y from "eslint-plugin-jsx-a11y";
import hooks from "eslint-plugin-react-hooks";
import ts from "typescript-eslint";

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
      "jsx-a11y/label-has-associated-control": ["error", { controlComponents: ["Pick"], depth: 3 }],
      // what scrolls must be reached by keyboard
      "jsx-a11y/no-noninteractive-tabindex": [
        "error",
        { tags: ["pre", "aside"], roles: ["tabpanel", "region"] },
      ],
      "@typescript-eslint/no-unused-vars": ["error", { ignoreRestSiblings: true }],
      complexity: ["error", 20],
      "max-lines-per-function": ["error", { max: 200, skipBlankLines: true, skipComments: true }],
      "@typescript-eslint/no-non-null-assertion": "off",
      "@typescript-eslint/consistent-type-imports": ["error", { fixStyle: "inline-type-imports" }],
    },
  },
);
