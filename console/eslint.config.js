import js from "@eslint/js";
import texts from "eslint-plugin-lingui";
import hooks from "eslint-plugin-react-hooks";
import ts from "typescript-eslint";

export default ts.config(
  { ignores: ["dist", "src/api/schema.ts"] },
  js.configs.recommended,
  ...ts.configs.strict,
  hooks.configs.flat.recommended,
  {
    files: ["src/**/*.tsx"],
    ignores: ["**/*.test.*", "src/testing/**"],
    languageOptions: { parserOptions: { projectService: true, tsconfigRootDir: import.meta.dirname } },
    plugins: { lingui: texts },
    rules: {
      // whatever reads as a sentence, or begins like one, belongs into the catalogue
      "lingui/no-unlocalized-strings": [
        "error",
        {
          useTsTypes: true,
          // the language of setup, keys, addresses and selectors stay as they are
          ignore: [
            "^[^A-Z ]*$",
            "^\\s*$",
            "Kavlo$",
            "^(UTC|Control\\+K|bottomLeft|bottomRight)$",
            "^kavlo ",
            "^(today|end of|\\d+) ",
            "^\\d{4}-",
            "^(daily|days|input,|input, select,|POST|PATCH|DELETE) ",
            "^outbound/",
            "^.?\\{",
            "^(all trackers|done|nothing to do|matched by|stacked bar|when offered|mail server)$",
          ],
          ignoreNames: [
            { regex: { pattern: "className|style|^(key|type|to|href|id|queryKey|value|rowKey|htmlFor|d|transform)$" } },
          ],
          ignoreFunctions: [
            "useState",
            "draftName",
            "*.includes",
            "*.test",
            "*.startsWith",
            "*.endsWith",
            "*.split",
            "*.replace",
            "*.getItem",
            "*.matches",
            "*.querySelectorAll",
            "*.closest",
          ],
        },
      ],
      "lingui/no-single-variables-to-translate": "error",
      "lingui/no-trans-inside-trans": "error",
    },
  },
);
