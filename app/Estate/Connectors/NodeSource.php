<?php

declare(strict_types=1);

namespace App\Estate\Connectors;

use Fulcrion\Core\Health\NodeSet;

/**
 * A cluster that knows its nodes.
 */
interface NodeSource
{
    /**
     * @throws SourceError
     */
    public function nodes(): NodeSet;
}
