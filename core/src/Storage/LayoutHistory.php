<?php

declare(strict_types=1);

namespace Fulcrion\Core\Storage;

/**
 * The versions of a table that are kept, and files that none of them needs.
 */
final readonly class LayoutHistory
{
    /**
     * @param  list<array{version: int, writtenUs: int, bytesAlone: int, files: int}>  $versions oldest first,
     *     without the current one; bytes only they need
     */
    public function __construct(
        public int $version = 0,
        public array $versions = [],
        public int $orphanFiles = 0,
        public int $orphanBytes = 0,
    ) {
    }
}
