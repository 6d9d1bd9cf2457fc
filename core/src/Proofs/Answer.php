<?php

declare(strict_types=1);

namespace Fulcrion\Core\Proofs;

/**
 * The rows a statement answered, kept only as long as it takes to lay them beside those of another run.
 */
final readonly class Answer
{
    /** More rows than these are not kept. */
    public const MOST_ROWS = 5_000;

    /**
     * @param  list<string>  $columns
     * @param  list<list<int|float|string|bool|null>>|null  $rows null when there were too many
     * @param  list<string>  $tables schema.table of all that was read for them
     */
    public function __construct(public array $columns, public ?array $rows, public array $tables)
    {
    }

    /**
     * @param  list<string>  $columns
     * @param  list<list<int|float|string|bool|null>>  $rows
     * @param  list<string>  $tables
     */
    public static function of(array $columns, array $rows, array $tables): self
    {
        return new self($columns, count($rows) > self::MOST_ROWS ? null : $rows, $tables);
    }

    /**
     * What one answer has and the other has not, whatever the order; alike rows count as often as they are there.
     */
    public function against(self $other): AnswerDifference
    {
        $tables = array_values(array_unique([...$this->tables, ...$other->tables]));
        if ($this->rows === null || $other->rows === null) {
            return new AnswerDifference($this->columns, [], [], null, null, $tables);
        }
        [$before, $onlyBefore] = self::without($this->rows, $other->rows);
        [$after, $onlyAfter] = self::without($other->rows, $this->rows);

        return new AnswerDifference($this->columns, $before, $after, $onlyBefore, $onlyAfter, $tables);
    }

    /**
     * @param  list<list<int|float|string|bool|null>>  $rows
     * @param  list<list<int|float|string|bool|null>>  $others
     * @return array{list<list<int|float|string|bool|null>>, int} the first of the rows the others lack, and how many there are
     */
    private static function without(array $rows, array $others): array
    {
        $there = array_count_values(array_map(RowsDigest::key(...), $others));
        $first = [];
        $count = 0;
        foreach ($rows as $row) {
            $key = RowsDigest::key($row);
            if (($there[$key] ?? 0) > 0) {
                $there[$key]--;
            } elseif (++$count <= AnswerDifference::SHOWN) {
                $first[] = $row;
            }
        }

        return [$first, $count];
    }
}
