<?php

declare(strict_types=1);

namespace App\Platform\Figures;

use Closure;

/**
 * What happened to a cluster that figures over time mark: each capability registers what it knows of.
 */
final class TimeMarks
{
    /** @var list<Closure(int, int, int): array<int, string>> */
    private array $sources = [];

    /**
     * @param  Closure(int, int, int): array<int, string>  $source names by Unix second; given the id of a cluster and the ends of a span
     */
    public function register(Closure $source): void
    {
        $this->sources[] = $source;
    }

    /**
     * @return array<int, string> second => name, in the order of time; what happened in the same second stands in one name
     */
    public function of(int $clusterId, int $from, int $to): array
    {
        $marks = [];
        foreach ($this->sources as $source) {
            foreach ($source($clusterId, $from, $to) as $at => $name) {
                $marks[$at] = isset($marks[$at]) ? "{$marks[$at]}, {$name}" : $name;
            }
        }
        ksort($marks);

        return $marks;
    }
}
