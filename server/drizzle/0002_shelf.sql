ALTER TABLE `documents` ADD `removed_at` text;
