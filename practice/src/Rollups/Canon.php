<?php

declare(strict_types=1);

namespace Fulcrion\Practice\Rollups;

use Fulcrion\Practice\Expression\Ref;
use Fulcrion\Practice\Logical\Scan;

/**
 * One name for each column of each table, so that expressions of two statements can be compared.
 */
final class Canon
{
    private const FIRST = 1 << 40;

    /** @var array<string, int> */
    private array $ids = [];

    /** @var array<int, string> directory of the table of each */
    private array $owners = [];

    /**
     * @param  list<Scan>  $scans
     * @return array<int, Ref> id in the statement => the common name
     */
    public function names(array $scans): array
    {
        $names = [];
        foreach ($scans as $scan) {
            foreach ($scan->columns as $number => $field) {
                $id = $this->ids["{$scan->table->directory}|{$number}"] ??= self::FIRST + count($this->ids);
                $this->owners[$id] = $scan->table->directory;
                $names[$field->id] = new Ref($id, $field->name, $field->type, $field->nullable);
            }
        }

        return $names;
    }

    /**
     * @param  list<Scan>  $scans
     * @return array<int, Ref> id of the common name => the column in the statement
     */
    public function back(array $scans): array
    {
        $names = $this->names($scans);
        $back = [];
        foreach ($scans as $scan) {
            foreach ($scan->columns as $field) {
                $back[$names[$field->id]->id] = $field->ref();
            }
        }

        return $back;
    }

    public function owner(int $id): string
    {
        return $this->owners[$id] ?? '';
    }
}
