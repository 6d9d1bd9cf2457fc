<?php

declare(strict_types=1);

namespace Fulcrion\Core\Access\Decide;

/**
 * One thing that was considered in a decision, with what was considered for it.
 */
final readonly class Reason
{
    /**
     * @param  string  $weight decides, adds or nothing: whether it made the difference
     * @param  list<self>  $inner
     */
    public function __construct(public string $text, public string $weight = 'nothing', public array $inner = [])
    {
    }

    /**
     * @return array{text: string, weight: string, inner: list<mixed>}
     */
    public function toArray(): array
    {
        return [
            'text' => $this->text,
            'weight' => $this->weight,
            'inner' => array_map(static fn (self $one): array => $one->toArray(), $this->inner),
        ];
    }
}
