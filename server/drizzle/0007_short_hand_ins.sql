ALTER TABLE `hand_ins` DROP COLUMN `source`;--> statement-breakpoint
ALTER TABLE `hand_ins` DROP COLUMN `bundle`;