<?php

declare(strict_types=1);

namespace Fulcrion\Core\Plans;

/**
 * Reads the table MariaDB writes of a plan into its slow query log (log_slow_verbosity=explain): one line a table, in the order they are
 * read.
 */
final readonly class ExplainLines
{
    private const MARK = '# explain: ';

    /** The table as text: what it does beside reading tables is told in words only. */
    private const SORTS = 'Using filesort';

    private const KEEPS = 'Using temporary';

    public static function is(string $line): bool
    {
        return str_starts_with($line, self::MARK);
    }

    /**
     * @param  list<string>  $lines as they stand in the log, the first one with the names of the columns
     * @return Plan|null null where they are none that can be read
     */
    public static function read(array $lines): ?Plan
    {
        $rows = array_map(static fn (string $line): array => explode("\t", substr(rtrim($line, "\r\n"), strlen(self::MARK))), $lines);
        $names = array_shift($rows) ?? [];
        if (array_diff(['id', 'select_type', 'table', 'type', 'key', 'rows'], $names) !== []) {
            return null;
        }
        $byId = [];
        $extras = [];
        foreach ($rows as $cells) {
            if (count($cells) !== count($names)) {
                return null;
            }
            $row = array_combine($names, array_map(static fn (string $cell): string => $cell === 'NULL' ? '' : $cell, $cells));
            $extras[] = $row['Extra'] ?? '';
            // A line about no table says why there is nothing to read.
            if ($row['table'] !== '') {
                $byId[$row['id']][] = self::step($row);
            }
        }
        if ($rows === []) {
            return null;
        }
        $parts = [];
        foreach ($byId as $steps) {
            $parts[] = array_reduce(
                array_slice($steps, 1),
                static fn (PlanStep $left, PlanStep $right): PlanStep => new PlanStep(StepKind::LoopJoin, inputs: [$left, $right]),
                $steps[0],
            );
        }
        $root = $parts === [] ? new PlanStep(StepKind::Values, $extras[0]) : new PlanStep(StepKind::Result, inputs: $parts);
        foreach ([self::KEEPS => StepKind::Store, self::SORTS => StepKind::Sort] as $words => $kind) {
            if (array_filter($extras, static fn (string $extra): bool => str_contains($extra, $words)) !== []) {
                $root = new PlanStep($kind, inputs: [$root]);
            }
        }

        return new Plan($root, 'mariadb', false, in_array('r_rows', $names, true));
    }

    /**
     * @param  array<string, string>  $row by column
     */
    private static function step(array $row): PlanStep
    {
        $isWhole = in_array($row['type'], ['ALL', 'index', ''], true);
        $estimated = is_numeric($row['rows']) ? (float) $row['rows'] : null;
        $read = is_numeric($row['r_rows'] ?? '') ? (float) $row['r_rows'] : null;
        $share = static fn (string $name): float => is_numeric($row[$name] ?? '') ? (float) $row[$name] / 100 : 1.0;

        return new PlanStep(
            $isWhole ? StepKind::Scan : StepKind::IndexRead,
            '',
            new TableFacts($row['table'], $isWhole && $estimated !== null ? (int) $estimated : null),
            [],
            new StepRows(
                $estimated === null ? null : $estimated * $share('filtered'),
                $read === null ? null : $read * $share('r_filtered'),
                $read,
            ),
            notes: [
                "access {$row['type']}",
                $row['key'] === '' ? 'no index' : "index {$row['key']}",
                ...($row['Extra'] ?? '') === '' ? [] : [$row['Extra']],
            ],
            index: $row['key'],
        );
    }
}
