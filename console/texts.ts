// How the console's texts are built. They stand in the code in English, inside the macros of
// Lingui; `npm run texts` gathers them into the catalogue src/texts/en.po. Here the macros
// become calls, with their messages taken apart beforehand, so that no page has to read them.
import { transformAsync, type NodePath, type PluginObj, type types as Types } from "@babel/core";
import macros from "@lingui/babel-plugin-lingui-macro";
import { makeConfig, type LinguiConfig } from "@lingui/conf";
import { formatter } from "@lingui/format-po";
import { compileMessage } from "@lingui/message-utils/compileMessage";
import { fileURLToPath } from "node:url";
import type { Plugin } from "vite";

const runtime = fileURLToPath(new URL("./src/texts/runtime.tsx", import.meta.url));

export const config: Partial<LinguiConfig> = {
  sourceLocale: "en",
  locales: ["en"],
  format: formatter({ lineNumbers: false, printPlaceholdersInComments: false }),
  catalogs: [{ path: "<rootDir>/src/texts/{locale}", include: ["src"], exclude: ["**/*.test.*"] }],
  runtimeConfigModule: { i18n: [runtime, "i18n"], Trans: [runtime, "Trans"] },
};

// takenApart puts messages as what they consist of in the place of their text.
function takenApart({ types: t }: { types: typeof Types }): PluginObj {
  const parts = (value: unknown): Types.Expression =>
    Array.isArray(value)
      ? t.arrayExpression(value.map(parts))
      : typeof value === "object" && value !== null
        ? t.objectExpression(
            Object.entries(value)
              .filter(([, v]) => v !== undefined)
              .map(([k, v]) => t.objectProperty(t.stringLiteral(k), parts(v))),
          )
        : (t.valueToNode(value) as Types.Expression);
  const of = (node: Types.Node | null | undefined) =>
    t.isStringLiteral(node) ? parts([compileMessage(node.value)].flat()) : undefined;
  return {
    visitor: {
      Program: {
        exit(program: NodePath<Types.Program>) {
          program.traverse({
            ObjectProperty({ node, parent }) {
              const keyed = (p: Types.Node) => t.isObjectProperty(p) && t.isIdentifier(p.key, { name: "id" });
              if (!t.isIdentifier(node.key, { name: "message" })) return;
              if (!t.isObjectExpression(parent) || !parent.properties.some(keyed)) return;
              node.value = of(node.value) ?? node.value;
            },
            JSXAttribute({ node, parent }) {
              const at = t.isJSXOpeningElement(parent) ? parent.name : null;
              if (node.name.name !== "message" || !t.isJSXIdentifier(at) || !/^_?Trans\d*$/.test(at.name)) return;
              const value = t.isJSXExpressionContainer(node.value) ? node.value.expression : node.value;
              const found = of(value);
              if (found) node.value = t.jsxExpressionContainer(found);
            },
          });
        },
      },
    },
  };
}

export function texts(): Plugin {
  return {
    name: "texts",
    enforce: "pre",
    async transform(code, id) {
      const [file = ""] = id.split("?");
      if (!/\.tsx?$/.test(file) || !/@lingui\/\w+\/macro/.test(code)) return;
      const out = await transformAsync(code, {
        filename: file,
        babelrc: false,
        configFile: false,
        sourceMaps: true,
        parserOpts: { plugins: file.endsWith("x") ? ["typescript", "jsx"] : ["typescript"] },
        plugins: [
          [macros, { stripMessageField: false, linguiConfig: makeConfig(config, { skipValidation: true }) }],
          takenApart,
        ],
      });
      return { code: out?.code ?? code, map: out?.map };
    },
  };
}
