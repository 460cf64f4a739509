export const Not: number, NotName: number, And: number, Or: number, In: number, Between: number, True: number, False: number;
