<?php

declare(strict_types=1);

namespace Fulcrion\Core\Storage;

/**
 * The statements of a cluster over a typical week.
 */
final readonly class Workload
{
    /**
     * @param  list<StatementUse>  $statements
     * @param  list<string>  $unreadTexts statements that could not be read
     */
    public function __construct(public array $statements, public int $unread = 0, private array $unreadTexts = [])
    {
    }

    /** Whether a statement that could not be read names a table. */
    public function mayRead(string $table): bool
    {
        return $this->unreadNaming($table) !== [];
    }

    /**
     * @return list<string> texts of statements that could not be read and name a table
     */
    public function unreadNaming(string $table): array
    {
        $name = '~\b'.preg_quote((string) preg_replace('~^.*\.~', '', $table), '~').'\b~i';

        return array_values(array_filter($this->unreadTexts, static fn (string $text): bool => preg_match($name, $text) === 1));
    }

    /** Statements that read or write a table. */
    public function touching(string $table): self
    {
        return new self(array_values(array_filter($this->statements, static fn (StatementUse $s): bool => $s->of($table) !== null)));
    }

    /**
     * How often and with how much load each column of a table is filtered, joined, grouped and read.
     *
     * @return array<string, array{filter: float, join: float, group: float, read: float, wrapped: float,
     *     durationUs: float}> executions a week by column, most load first
     */
    public function columns(string $table): array
    {
        $columns = [];
        foreach ($this->statements as $statement) {
            foreach ($statement->tables as $use) {
                if ($use->table !== $table) {
                    continue;
                }
                $sets = [
                    'filter' => $use->filtered(),
                    'join' => array_map(static fn (JoinUse $j): string => $j->column, $use->joins),
                    'group' => $use->grouped,
                    'read' => $use->columns,
                    'wrapped' => array_keys($use->wrapped),
                ];
                foreach ($sets as $kind => $names) {
                    foreach (array_unique($names) as $name) {
                        $columns[$name] ??= [
                            'filter' => 0.0,
                            'join' => 0.0,
                            'group' => 0.0,
                            'read' => 0.0,
                            'wrapped' => 0.0,
                            'durationUs' => 0.0,
                        ];
                        $columns[$name][$kind] += $statement->executions;
                        $columns[$name]['durationUs'] += $kind === 'read' ? $statement->durationUs : 0.0;
                    }
                }
            }
        }
        uasort($columns, static fn (array $a, array $b): int => $b['durationUs'] <=> $a['durationUs']);

        return $columns;
    }
}
