<?php

declare(strict_types=1);

namespace Fulcrion\Core\Proofs;

/**
 * The first rows that only one of two answers has.
 *
 * @phpstan-type DifferenceArray array{columns: list<string>, before: list<list<int|float|string|bool|null>>,
 *     after: list<list<int|float|string|bool|null>>, onlyBefore: int|null, onlyAfter: int|null, tables: list<string>}
 */
final readonly class AnswerDifference
{
    /** Rows shown of each answer. */
    public const SHOWN = 5;

    /**
     * @param  list<string>  $columns
     * @param  list<list<int|float|string|bool|null>>  $before rows that only the first answer has
     * @param  list<list<int|float|string|bool|null>>  $after
     * @param  int|null  $onlyBefore how many there are; null when the rows were too many to keep
     * @param  list<string>  $tables schema.table of all that was read: the rows are as closed as they are
     */
    public function __construct(
        public array $columns,
        public array $before,
        public array $after,
        public ?int $onlyBefore,
        public ?int $onlyAfter,
        public array $tables,
    ) {
    }

    /**
     * @return DifferenceArray
     */
    public function toArray(): array
    {
        return [
            'columns' => $this->columns,
            'before' => $this->before,
            'after' => $this->after,
            'onlyBefore' => $this->onlyBefore,
            'onlyAfter' => $this->onlyAfter,
            'tables' => $this->tables,
        ];
    }

    /**
     * @param  DifferenceArray  $values
     */
    public static function fromArray(array $values): self
    {
        return new self(
            $values['columns'],
            $values['before'],
            $values['after'],
            $values['onlyBefore'],
            $values['onlyAfter'],
            $values['tables'],
        );
    }
}
