<?php

declare(strict_types=1);

namespace App\Health\Probes;

use Illuminate\Contracts\Encryption\Encrypter;
use stdClass;

/**
 * A fixed statement that is run on a cluster again and again.
 */
final readonly class Probe
{
    /** Late is what has not been run for so many times its interval. */
    private const LATE = 3;

    private function __construct(
        public int $id,
        public int $clusterId,
        public int $userId,
        public string $schema,
        public string $sql,
        public int $everySeconds,
        public bool $isOn,
        public int $madeUs,
        public ?string $lastError,
    ) {
    }

    public static function read(stdClass $row, Encrypter $encrypter): self
    {
        $sql = $encrypter->decrypt((string) $row->sealed, false);

        return new self(
            (int) $row->id,
            (int) $row->cluster_id,
            (int) $row->user_id,
            (string) $row->schema,
            is_string($sql) ? $sql : '',
            (int) $row->every_seconds,
            (bool) $row->is_on,
            (int) $row->made_us,
            $row->last_error === null ? null : (string) $row->last_error,
        );
    }

    /**
     * @param  int|null  $last Unix second of its last run
     */
    public function isDue(?int $last, int $now): bool
    {
        return $this->isOn && ($last === null || $now - $last >= $this->everySeconds);
    }

    /**
     * @param  int|null  $last Unix second of its last run
     */
    public function isLate(?int $last, int $now): bool
    {
        return $this->isOn && $now - ($last ?? intdiv($this->madeUs, 1_000_000)) > self::LATE * $this->everySeconds;
    }
}
