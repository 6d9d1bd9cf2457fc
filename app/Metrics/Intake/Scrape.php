<?php

declare(strict_types=1);

namespace App\Metrics\Intake;

use stdClass;

/**
 * An address that is asked for its metrics.
 */
final readonly class Scrape
{
    private function __construct(
        public int $id,
        public int $clusterId,
        public string $host,
        public string $address,
        public int $everySeconds,
        public string $madeBy,
        public int $askedAt,
        public ?string $lastError,
    ) {
    }

    public static function read(stdClass $row): self
    {
        return new self(
            (int) $row->id,
            (int) $row->cluster_id,
            (string) $row->host,
            (string) $row->address,
            (int) $row->every_seconds,
            (string) $row->made_by,
            (int) $row->asked_at,
            $row->last_error === null ? null : (string) $row->last_error,
        );
    }
}
