import js from "@eslint/js";
import hooks from "eslint-plugin-react-hooks";
import tseslint from "typescript-eslint";

/** What a folder may not import, and why. */
const banned = (files, regex, message, ignores = []) => ({
    files,
    ignores,
    rules: { "no-restricted-imports": ["error", { patterns: regex.map((one) => ({ regex: one, message })) }] },
});

const FEATURE = String.raw`(^|/)features/`;
const SIBLING = String.raw`^\.\./(?!\.\.)`;
const REACT = String.raw`^react(-dom|-router)?$`;
const up = (...folders) => String.raw`^(\.\./)+(${folders.join("|")})/`;

export default tseslint.config(
    { ignores: ["dist", "src/api/schema.d.ts"] },
    js.configs.recommended,
    ...tseslint.configs.strict,
    { files: ["src/**/*.{ts,tsx}"], plugins: { "react-hooks": hooks }, rules: { ...hooks.configs.recommended.rules } },
    banned(["src/features/**"], [SIBLING], "A feature knows no other feature; a page that composes them does.", [
        "src/features/workspace/**",
        "src/features/pieces/Shelf.tsx",
        "src/features/settings/Settings.tsx",
    ]),
    banned(["src/ui/**", "src/notation/**", "src/ruler/**"], [FEATURE], "What draws knows no feature."),
    banned(["src/api/**"], [FEATURE, up("session", "ui", "ruler")], "The client of the API knows nobody who calls it."),
    banned(
        ["src/sound/**", "src/lib/**"],
        [FEATURE, REACT, up("session", "ui", "ruler", "notation")],
        "Sound and lib stand below everything, and need no React.",
        ["src/lib/draft.ts", "src/**/*.test.ts"],
    ),
    banned(
        ["src/session/**"],
        [FEATURE, REACT, up("ui", "ruler", "notation")],
        "The session belongs to the application: no view, no React but for the hooks by which views look on.",
        ["src/session/current.ts", "src/session/cardChoice.ts"],
    ),
);
