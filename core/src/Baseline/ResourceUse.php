<?php

declare(strict_types=1);

namespace Fulcrion\Core\Baseline;

use Fulcrion\Core\Statistics\Spread;

/**
 * Which part of what a resource can do was used in an hour.
 */
final readonly class ResourceUse
{
    public function __construct(public string $host, public string $resource, public float $middle, public float $high)
    {
    }

    /**
     * @param  list<float|null>  $shares of what it can do, by the interval
     * @return self|null null where nothing is known
     */
    public static function of(string $host, string $resource, array $shares): ?self
    {
        $known = array_values(Spread::known($shares));

        return $known === [] ? null : new self($host, $resource, Spread::median($known), Spread::quantile($known, 0.95));
    }

    /**
     * Reading and writing take the disk in turns: parts of what it can read and of what it can write add up.
     *
     * @param  list<float|null>  $read bytes a second
     * @param  list<float|null>  $written bytes a second
     * @return list<float|null>
     */
    public static function disk(array $read, array $written, float $canRead, float $canWrite): array
    {
        $shares = [];
        foreach ($read as $place => $bytes) {
            $other = $written[$place] ?? null;
            $shares[] = $bytes === null || $other === null ? null : $bytes / $canRead + $other / $canWrite;
        }

        return $shares;
    }

    /**
     * What comes and what goes have a way each: the fuller one counts.
     *
     * @param  list<float|null>  $in bytes a second
     * @param  list<float|null>  $out bytes a second
     * @return list<float|null>
     */
    public static function network(array $in, array $out, float $can): array
    {
        $shares = [];
        foreach ($in as $place => $bytes) {
            $other = $out[$place] ?? null;
            $shares[] = $bytes === null || $other === null ? null : max($bytes, $other) / $can;
        }

        return $shares;
    }

    /**
     * First of those nearest their end.
     *
     * @param  list<self>  $uses
     */
    public static function bottleneck(array $uses): ?self
    {
        usort($uses, static fn (self $a, self $b): int => [$b->high, $b->middle, $a->host] <=> [$a->high, $a->middle, $b->host]);

        return $uses[0] ?? null;
    }
}
