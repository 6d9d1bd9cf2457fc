<?php

declare(strict_types=1);

namespace App\Health\Application;

/**
 * One thing monitoring needs.
 */
final readonly class SetupStep
{
    /**
     * @param  string  $mark calm where it is there, act where it is missing, watch where it would be better
     * @param  string  $statement that grants or does it; empty where there is none
     * @param  array{string, string}|null  $page name and address of where it is done
     * @param  string|null  $part view in which it is done on the page itself
     */
    public function __construct(
        public string $title,
        public string $mark,
        public string $said,
        public string $statement = '',
        public ?array $page = null,
        public ?string $part = null,
    ) {
    }
}
