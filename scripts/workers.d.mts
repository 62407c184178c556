export declare function buildWorkers(): Promise<void>
export declare function watchWorkers(): Promise<void>
