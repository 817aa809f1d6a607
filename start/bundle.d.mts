export declare function bundledServer(): Promise<string>;
export declare function putTogether(outdir: string, entryPoints: Record<string, string>): Promise<void>;
