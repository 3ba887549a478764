/**
 * Read before all that describes data: the page's policy forbids code that is made of texts, and whether it may be made is found
 * out by trying, which the browser tells as a breach, and which has it read the whole file once more for the place of it.
 */
import { config } from 'zod';

config({ jitless: true });
