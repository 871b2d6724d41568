// The heights of the section, in px.
export const ROW = 37;
export const HEAD = 44;
