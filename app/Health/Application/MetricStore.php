<?php

declare(strict_types=1);

namespace App\Health\Application;

use Fulcrion\Core\Metrics\Readings;

/**
 * Where values over time are kept and found. All that is known of how a server was goes through here.
 */
interface MetricStore
{
    /**
     * @param  int  $at second
     * @param  array<string, float>  $values by measure
     */
    public function keep(int $clusterId, int $at, array $values): void;

    /**
     * @param  list<string>  $measures
     * @return array<string, Readings> by measure, with the last reading before and the first one after the span
     */
    public function readings(int $clusterId, array $measures, int $from, int $to, int $patience): array;
}
