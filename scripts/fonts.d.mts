export declare function fontData(): Record<string, unknown>
