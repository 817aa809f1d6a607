export declare function bundledServer(): Promise<string>;
