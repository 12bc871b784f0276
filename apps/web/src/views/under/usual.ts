/** Speech stands so far above a bed, if nothing else is said. Common practice, no source. */
export const USUAL_UNDER_LU = 15;
