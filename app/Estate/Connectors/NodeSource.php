<?php

declare(strict_types=1);

namespace App\Estate\Connectors;

use Fulcrion\Core\Health\NodeSet;

/**
 * A cluster that knows its nodes, how they are set and what they store.
 */
interface NodeSource extends SettingSource, SpaceSource
{
    /**
     * @throws SourceError
     */
    public function nodes(): NodeSet;
}
