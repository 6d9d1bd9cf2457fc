<?php

declare(strict_types=1);

namespace Fulcrion\Core\Plans;

/**
 * What was true of a table when a plan read it.
 */
final readonly class TableFacts
{
    /**
     * @param  list<string>  $clustering
     * @param  array<string, string>  $types column => type, of the columns conditions may name
     */
    public function __construct(
        /** schema.table */
        public string $name,
        public ?int $rows = null,
        public string $distribution = '',
        public ?string $partitionColumn = null,
        public array $clustering = [],
        public array $types = [],
        /** Age of the statistics; null when none were ever collected. */
        public ?int $statisticsAgeUs = null,
        /** Rows changed since, as a share of the rows there were. */
        public ?float $changedShare = null,
        /** False where the engine keeps its statistics to itself. */
        public bool $statisticsKnown = false,
    ) {
    }

    /**
     * @return array<string, mixed>
     */
    public function toArray(): array
    {
        /** @var array<string, mixed> $values */
        $values = get_object_vars($this);

        return $values;
    }

    /**
     * @param  array<string, mixed>  $values
     */
    public static function fromArray(array $values): self
    {
        $f = new Fields($values);

        return new self(
            $f->text('name'),
            $f->maybeInt('rows'),
            self::placed($f->text('distribution')),
            $f->maybeText('partitionColumn'),
            $f->texts('clustering'),
            $f->textMap('types'),
            $f->maybeInt('statisticsAgeUs'),
            $f->maybeFloat('changedShare'),
            $f->bool('statisticsKnown'),
        );
    }

    /** Plans that were kept or taken away before 0.5 say it otherwise. */
    private static function placed(string $text): string
    {
        return ['copy' => 'everywhere', 'even' => 'evenly'][$text] ?? (string) preg_replace('~^hash\((.*)\)$~', 'by $1', $text);
    }
}
