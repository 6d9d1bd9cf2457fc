<?php

declare(strict_types=1);

namespace App\Metrics\Store;

use stdClass;

/**
 * A series that is kept.
 */
final readonly class KeptSeries
{
    /**
     * @param  array<string, string>  $labels
     */
    private function __construct(
        public int $id,
        public int $clusterId,
        public string $host,
        public string $name,
        public string $unit,
        public array $labels,
        public bool $isCounter,
    ) {
    }

    public static function read(stdClass $row): self
    {
        $labels = [];
        foreach ($row->labels === '' ? [] : (array) json_decode((string) $row->labels, true) as $name => $value) {
            $labels[(string) $name] = is_string($value) ? $value : '';
        }

        return new self(
            (int) $row->id,
            (int) $row->cluster_id,
            (string) $row->host,
            (string) $row->name,
            (string) $row->unit,
            $labels,
            (bool) $row->is_counter,
        );
    }
}
