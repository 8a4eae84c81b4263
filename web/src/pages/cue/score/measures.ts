/** The height of a row of blocks in the score, with its gap; and of a block (px). */
export const LEVEL_PX = 27
export const BLOCK_PX = 24
