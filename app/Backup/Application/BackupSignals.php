<?php

declare(strict_types=1);

namespace App\Backup\Application;

use App\Estate\Models\Cluster;
use App\Metrics\Signals\Signal;
use App\Metrics\Signals\SignalSource;
use Fulcrion\Core\Backup\Backup;
use Fulcrion\Core\Backup\BackupHistory;
use Fulcrion\Core\Backup\SchemaBackups;

/**
 * How old the newest good backups of a cluster were, and how much space all took, for alerts and for whoever shows it.
 */
final readonly class BackupSignals implements SignalSource
{
    /** Of the schema that could be got back least. */
    private const AGE = 'age';

    /** Of each schema, by its name. */
    private const AGES = 'ages';

    /** Bytes of what is kept, by plan. */
    private const KEPT = 'kept';

    private const HOUR = 3_600.0;

    public function __construct(private BackupBook $book)
    {
    }

    public function prefix(): string
    {
        return 'backup';
    }

    public function signals(Cluster $cluster): array
    {
        return $this->book->knows($cluster)
            ? [new Signal('backup:'.self::AGE, 'Age of the newest good backup, of the schema where it is oldest', 'h', self::HOUR, 48.0,
                false)]
            : [];
    }

    public function delaySeconds(Cluster $cluster): int
    {
        return 0;
    }

    public function values(Cluster $cluster, string $key, int $from, int $to, int $step): array
    {
        if (! in_array($key, [self::AGE, self::AGES, self::KEPT], true)) {
            return [];
        }
        // What is known now of all of it, as it stood at the end of each step.
        $all = $this->book->history($cluster, $to * 1_000_000)->backups;
        $values = [];
        $step = max(1, $step);
        $moments = self::moments($all);
        $known = [];
        $knownAt = PHP_INT_MIN;
        for ($at = $from, $place = 0, $next = 0; $at < $to; $at += $step, $place++) {
            $endUs = ($at + $step) * 1_000_000;
            $isOther = $knownAt === PHP_INT_MIN;
            for (; $next < count($moments) && $moments[$next] <= $endUs; $next++) {
                $isOther = true;
            }
            if ($isOther) {
                $history = BackupHistory::at($all, $endUs);
                $known = $key === self::KEPT ? $history->keptBytes() : self::ages($history, $key);
                $knownAt = $endUs;
            }
            // Nothing came or went since: all of it is older by as much.
            $olderBy = $key === self::KEPT ? 0.0 : ($endUs - $knownAt) / 1e6;
            foreach ($known as $name => $value) {
                $values[$name][$place] = $value + $olderBy;
            }
        }

        return array_map(static function (array $known) use ($from, $to, $step): array {
            $list = [];
            for ($place = 0; $place < (int) ceil(($to - $from) / $step); $place++) {
                $list[] = $known[$place] ?? null;
            }

            return $list;
        }, $values);
    }

    /**
     * @return array<string, float> seconds, by schema, or of the oldest by the empty name
     */
    private static function ages(BackupHistory $history, string $key): array
    {
        $ages = [];
        foreach ($history->bySchema() as $schema) {
            $ages[$schema->schema] = ($schema->ageUs() ?? self::never($schema)) / 1e6;
        }

        return $key === self::AGES || $ages === [] ? $ages : ['' => max($ages)];
    }

    /**
     * @param  list<Backup>  $backups
     * @return list<int> when something of them became otherwise, in microseconds, ascending
     */
    private static function moments(array $backups): array
    {
        $moments = [];
        foreach ($backups as $one) {
            $moments[] = $one->endedUs;
            $moments[] = $one->removedUs ?? $one->endedUs;
        }
        sort($moments);

        return $moments;
    }

    /** Where none was ever good: since it was tried first. */
    private static function never(SchemaBackups $schema): int
    {
        return $schema->atUs - ($schema->backups[0]->startedUs ?? $schema->atUs);
    }
}
