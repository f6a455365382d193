/** How pictures of tips and textures are named. */
import { z } from 'zod';

/** A picture that Brindle draws by itself (`made:leaf`), or one of the server's by its content (SHA-256). */
export const pictureIdSchema = z.string().regex(/^(made:[a-z-]{1,40}|[0-9a-f]{64})$/, 'no name of a picture');
