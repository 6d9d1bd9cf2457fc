<?php

declare(strict_types=1);

namespace App\Access\Application;

use App\Estate\Authorization\TableVisibility;
use App\Estate\Models\Cluster;
use Fulcrion\Core\Access\Catalog\TableEntry;
use Fulcrion\Core\Access\Decide\ColumnAccess;
use Fulcrion\Core\Access\Decide\Policy;
use Fulcrion\Core\Access\Decide\Reader;
use Fulcrion\Core\Access\Decide\Sight;
use Fulcrion\Core\Access\Policy\ObjectPath;
use Fulcrion\Core\Catalog\HelperName;

/**
 * What the policy in force shows a person of tables, whatever statement they were read by.
 */
final readonly class PolicyVisibility implements TableVisibility
{
    private Reader $reader;

    /**
     * @param  bool  $free whether the person runs statements as they are written
     */
    public function __construct(private Policy $policy, string $subject, private Cluster $cluster, private bool $free)
    {
        $this->reader = $policy->reader($subject);
    }

    public function isPlain(string $table): bool
    {
        return $this->sees($table, null);
    }

    public function seesColumn(string $table, string $column): bool
    {
        return $this->sees($table, strtolower($column));
    }

    private function sees(string $table, ?string $column): bool
    {
        $parts = explode('.', strtolower($table), 2);
        if (HelperName::is($parts[0], $parts[1] ?? '')) {
            return false;
        }
        if ($this->free) {
            return true;
        }
        $entry = $this->policy->catalog->table(ObjectPath::of([$this->cluster->slug, ...$parts]));
        if ($entry === null) {
            // A live server has schemas no policy speaks of; what is in them is decided by its own grants.
            return $this->cluster->connector !== 'practice' &&
                $this->policy->catalog->below(ObjectPath::of([$this->cluster->slug, $parts[0]])) === [];
        }
        $access = $this->reader->table($entry);
        $columns = $column === null ? $access->columns : array_intersect_key($access->columns, [$column => true]);

        return $columns !== [] &&
            $access->filters === [] &&
            $this->seesAllRows($entry) &&
            array_filter($columns, static fn (ColumnAccess $one): bool => $one->sight !== Sight::Visible) === [];
    }

    private function seesAllRows(TableEntry $table): bool
    {
        foreach ($this->policy->carriers($table) as $carrier) {
            if (! $this->reader->allowed($carrier->dimension, $carrier->by, false)->everything) {
                return false;
            }
        }

        return true;
    }
}
