/** Whether a treatment is under way on this page: then nothing covers the screen. */
let treating = false;
export const isTreating = () => treating;
export const setTreating = (now: boolean) => {
  treating = now;
};
