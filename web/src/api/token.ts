/** What this page says with each change where people sign in. */
let token: string | null = null;
export const saysToken = (now: string | null) => void (token = now);
export const tokenHeader = (): Record<string, string> => (token ? { "X-Kame-Token": token } : {});
