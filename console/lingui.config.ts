export { config as default } from "./texts.ts";
