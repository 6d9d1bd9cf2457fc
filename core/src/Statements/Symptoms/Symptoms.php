<?php

declare(strict_types=1);

namespace Fulcrion\Core\Statements\Symptoms;

/**
 * Which symptoms a statement has, by what the server counted of it. All are about what is read, kept aside or refused, so that they
 * are there from the first minute on and need nothing to compare with.
 */
final readonly class Symptoms
{
    /** Rows a run looks at from which an index is worth a thought; fewer are read in milliseconds. */
    public const LARGE_ROWS = 20_000;

    /** Rows looked at for each row given from which most of them were looked at for nothing. */
    public const WASTE = 100.0;

    /** Time in the span from which a symptom counts. */
    public const LEAST_US = 500_000;

    public const LEAST_RUNS_ON_DISK = 2;

    public const LEAST_FAILED = 5;

    public const FAILING_SHARE = 0.5;

    /**
     * @return list<SymptomKind>
     */
    public static function of(Counted $counted): array
    {
        return array_values(array_filter([
            self::readsWithoutIndex($counted) ? SymptomKind::ReadsWithoutIndex : null,
            $counted->executions >= self::LEAST_RUNS_ON_DISK &&
            $counted->tmpDisk >= $counted->executions &&
            $counted->durationUs >= self::LEAST_US &&
            // Of catalogs the server makes tables that have texts in them, whatever is asked.
            preg_match('~\binformation_schema\b~i', $counted->text) !== 1 ? SymptomKind::TemporaryTablesOnDisk : null,
            $counted->failed >= self::LEAST_FAILED && $counted->failed >= self::FAILING_SHARE * $counted->executions
                ? SymptomKind::Fails
                : null,
        ]));
    }

    private static function readsWithoutIndex(Counted $counted): bool
    {
        return $counted->unindexed > 0 &&
            $counted->durationUs >= self::LEAST_US &&
            $counted->examinedEach() >= self::LARGE_ROWS &&
            $counted->examinedForOne() >= self::WASTE &&
            // What is asked for all rows has to read them all.
            preg_match('~\b(WHERE|JOIN|HAVING)\b~i', $counted->text) === 1;
    }
}
