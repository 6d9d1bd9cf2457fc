<?php

declare(strict_types=1);

namespace App\Estate\Connectors;

use Fulcrion\Core\Plans\Plan;

/**
 * A live server that says how it would run a read now, without running it.
 */
interface PlanSource
{
    /**
     * @param  string  $schema where tables without one are looked for
     *
     * @throws SourceError where it does not say
     */
    public function explain(string $sql, string $schema): Plan;
}
