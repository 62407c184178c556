export declare function generate(): string
