<?php

declare(strict_types=1);

namespace Fulcrion\Tools\Bench;

use Closure;

/**
 * A measurement that can be repeated by anyone. It never fails a run; it says whether its aim was met.
 */
interface Measurement
{
    public function name(): string;

    /**
     * @param  Closure(string): void  $say what is being done
     * @return iterable<BenchFigure>
     */
    public function run(Closure $say): iterable;
}
