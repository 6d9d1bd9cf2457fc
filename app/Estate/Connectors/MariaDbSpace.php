<?php

declare(strict_types=1);

namespace App\Estate\Connectors;

use App\Estate\Models\Cluster;
use Fulcrion\Core\Capacity\PartKind;
use Fulcrion\Core\Capacity\StoredPart;

/**
 * What takes space in a MariaDB, as its engines say it.
 */
final readonly class MariaDbSpace implements SpaceSource
{
    public function __construct(private Cluster $cluster)
    {
    }

    public function stored(): array
    {
        $parts = [];
        foreach ((new MariaDbConnector($this->cluster))->objects(false) as $one) {
            if ($one->bytes > 0) {
                $parts[] = new StoredPart(PartKind::Table, "{$one->schema}.{$one->name}", (float) $one->bytes);
            }
        }

        return $parts;
    }

    public function storageBytes(): null
    {
        return null;
    }
}
