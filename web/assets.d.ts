declare module '*.css';
declare module '@fontsource-variable/*';

declare module '*?worker&url' {
  const url: string;
  export default url;
}
