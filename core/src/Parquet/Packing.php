<?php

declare(strict_types=1);

namespace Fulcrion\Core\Parquet;

/**
 * How the columns of a table are written.
 */
final readonly class Packing
{
    /** Compressions by the word SQL uses. */
    public const COMPRESSIONS = ['none' => 0, 'gzip1' => 1, 'gzip4' => 4, 'gzip5' => 5, 'gzip9' => 9];

    public const USUAL = 'gzip4';

    /**
     * @param  array<string, Encoding>  $encodings by column; others as suits their values
     * @param  key-of<self::COMPRESSIONS>  $compression
     */
    public function __construct(public array $encodings = [], public string $compression = self::USUAL)
    {
    }

    public function writer(): ParquetWriter
    {
        $level = self::COMPRESSIONS[$this->compression];

        return new ParquetWriter($level === 0 ? Compression::None : Compression::Gzip, 'fulcrion', $this->encodings, max(1, $level));
    }

    /** As the option of a statement: "bay_id:dictionary, read_at:delta". */
    public function words(): string
    {
        return implode(
            ', ',
            array_map(
                static fn (string $column, Encoding $encoding): string => "{$column}:{$encoding->word()}",
                array_map(strval(...), array_keys($this->encodings)),
                $this->encodings,
            ),
        );
    }

    /**
     * @return array{encodings: array<string, string>, compression: string}
     */
    public function toArray(): array
    {
        return [
            'encodings' => array_map(static fn (Encoding $encoding): string => $encoding->word(), $this->encodings),
            'compression' => $this->compression,
        ];
    }

    /**
     * @param  array{encodings: array<string, string>, compression: string}  $values
     */
    public static function fromArray(array $values): self
    {
        $compression = $values['compression'];

        return new self(
            array_filter(array_map(Encoding::named(...), $values['encodings']), static fn (?Encoding $one): bool => $one !== null),
            isset(self::COMPRESSIONS[$compression]) ? $compression : self::USUAL,
        );
    }
}
