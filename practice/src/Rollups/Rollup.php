<?php

declare(strict_types=1);

namespace Fulcrion\Practice\Rollups;

/**
 * A stored aggregate: what it holds and what it was computed from. Its rows lie in a table of their own that has no
 * name, so nobody reads them but the planner.
 */
final readonly class Rollup
{
    /** A rollup behind its table is used together with the rows that came since. */
    public const FOLD = 'fold';

    /** A rollup behind its table is not used. */
    public const SKIP = 'skip';

    /**
     * @param  list<Segment>  $segments
     * @param  array<string, int>  $dimensions directory of each other table it reads => version it had
     */
    public function __construct(
        public string $schema,
        public string $name,
        public string $sql,
        /** FOLD or SKIP. */
        public string $stale,
        /** Directory of its rows. */
        public string $token,
        /** Version of its rows the segments speak of; 0 before the first refresh. */
        public int $version,
        /** schema.table whose new chunks are folded in. */
        public string $fact,
        public string $factToken,
        public array $dimensions,
        public array $segments,
        public int $createdUs,
        public int $refreshedUs,
    ) {
    }

    public function path(): string
    {
        return "{$this->schema}.{$this->name}";
    }

    /**
     * @return array<string, mixed>
     */
    public function toArray(): array
    {
        return ['segments' => array_map(get_object_vars(...), $this->segments)] + get_object_vars($this);
    }

    /**
     * @param  array<string, mixed>  $values as toArray() gives
     */
    public static function fromArray(array $values): self
    {
        /** @var list<array{partition: string, from: list<string>, chunks: list<string>}> $segments */
        $segments = $values['segments'];
        $values['segments'] = array_map(
            static fn (array $one): Segment => new Segment($one['partition'], $one['from'], $one['chunks']),
            $segments,
        );

        return new self(...$values);
    }
}
