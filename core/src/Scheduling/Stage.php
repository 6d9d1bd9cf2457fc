<?php

declare(strict_types=1);

namespace Fulcrion\Core\Scheduling;

/**
 * A part of a job whose tasks do the same with different data.
 */
final readonly class Stage
{
    /**
     * @param  list<string>  $after ids of stages that must have ended before a task of this one may start
     */
    public function __construct(
        public string $id,
        public string $name,
        public array $after = [],
        /** What it reads, as the record names it; empty where it does not. */
        public string $input = '',
        /** Lines of the script it became of, 1-based; 0 where the record does not say. */
        public int $lineFrom = 0,
        public int $lineTo = 0,
    ) {
    }

    /**
     * @return array{id: string, name: string, after: list<string>, input: string, lines: array{int, int}}
     */
    public function toArray(): array
    {
        return [
            'id' => $this->id,
            'name' => $this->name,
            'after' => $this->after,
            'input' => $this->input,
            'lines' => [$this->lineFrom, $this->lineTo],
        ];
    }

    /**
     * @param  array{id: string, name: string, after: list<string>, input: string, lines: array{int, int}}  $stage
     */
    public static function fromArray(array $stage): self
    {
        return new self($stage['id'], $stage['name'], $stage['after'], $stage['input'], $stage['lines'][0], $stage['lines'][1]);
    }
}
