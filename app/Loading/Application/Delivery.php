<?php

declare(strict_types=1);

namespace App\Loading\Application;

use Fulcrion\Core\Loading\TransferMeasure;
use stdClass;

/**
 * One delivery as it came.
 */
final readonly class Delivery
{
    public function __construct(
        public string $name,
        public int $at,
        public TransferMeasure $measure,
        public int $leastBytes,
        public int $mostBytes,
    ) {
    }

    public static function read(stdClass $row): self
    {
        return new self((string) $row->name, (int) $row->at, new TransferMeasure(
            (int) $row->files,
            (int) $row->bytes,
            (float) $row->seconds,
            (float) $row->streams,
            (float) $row->file_seconds,
            $row->stream_rate === null ? null : (float) $row->stream_rate,
        ), (int) $row->least_bytes, (int) $row->most_bytes);
    }
}
