// Stands for Node's own "module" in the browser: the noise reduction's package asks for it under Node alone.
export {};
