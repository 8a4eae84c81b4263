/** How high a line of blocks in the score is, with its gap; and a block (px). */
export const LEVEL_PX = 27
export const BLOCK_PX = 24
