import { config, z } from "zod";

// without it the package tries to compile its checks, which the policy of the page forbids
config({ jitless: true });

export { z };
