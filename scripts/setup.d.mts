/* Types of setup.mjs, which is plain JavaScript so that nothing need be installed before it runs. */
export declare const PACKAGES: readonly string[];
export declare function lendPackages(checkout: string): void;
