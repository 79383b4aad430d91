declare module '*.css';
declare module '@fontsource-variable/*';

declare module '*?url' {
  const url: string;
  // biome-ignore lint/style/noDefaultExport: the bundler gives an address so
  export default url;
}

declare module '*?worker&url' {
  const url: string;
  // biome-ignore lint/style/noDefaultExport: the bundler gives an address so
  export default url;
}
