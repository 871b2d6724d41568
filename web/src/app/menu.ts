/** How a menu of the top bar looks, and one of its lines. */
export const MENU = "z-50 min-w-48 rounded-md border border-edge bg-white p-1 shadow-lg";
export const ITEM =
  "flex cursor-pointer items-center rounded px-2 py-1 outline-none data-[highlighted]:bg-hover";
