<?php

declare(strict_types=1);

namespace App\Platform\Figures;

use Closure;

/**
 * What happened to a cluster that figures over time mark: each capability registers what it knows of.
 */
final class TimeMarks
{
    /** What other figures would be crowded by. */
    private const QUIET = ['settings'];

    /** @var list<array{string, Closure(int, int, int): array<int, string>}> */
    private array $sources = [];

    /**
     * @param  Closure(int, int, int): array<int, string>  $source names by Unix second; given the id of a cluster and the ends of a span
     * @param  string  $kind of what it knows, in one word for people
     */
    public function register(Closure $source, string $kind = 'events'): void
    {
        $this->sources[] = [$kind, $source];
    }

    /**
     * @return array<int, string> second => name, in the order of time; what happened in the same second stands in one name
     */
    public function of(int $clusterId, int $from, int $to): array
    {
        return self::together(...array_values(array_diff_key($this->kinds($clusterId, $from, $to), array_flip(self::QUIET))));
    }

    /**
     * @return array<string, array<int, string>> the same, with what is left out there, by kind
     */
    public function kinds(int $clusterId, int $from, int $to): array
    {
        $kinds = [];
        foreach ($this->sources as [$kind, $source]) {
            $kinds[$kind] = self::together($kinds[$kind] ?? [], $source($clusterId, $from, $to));
        }

        return $kinds;
    }

    /**
     * Names by their second; what happened in the same one stands in one name.
     *
     * @param  iterable<array{int, string}>  $marks second and name
     * @return array<int, string>
     */
    public static function named(iterable $marks): array
    {
        $named = [];
        foreach ($marks as [$at, $name]) {
            $named[$at] = isset($named[$at]) ? "{$named[$at]}, {$name}" : $name;
        }
        ksort($named);

        return $named;
    }

    /**
     * @param  array<int, string>  ...$lists
     * @return array<int, string>
     */
    public static function together(array ...$lists): array
    {
        $marks = [];
        foreach ($lists as $list) {
            foreach ($list as $at => $name) {
                $marks[] = [$at, $name];
            }
        }

        return self::named($marks);
    }
}
