<?php

declare(strict_types=1);

namespace App\Access\Application;

use App\Access\Models\PolicyVersion;
use App\Platform\Support\Clock;
use Fulcrion\Core\Access\Decide\Policy;
use Fulcrion\Core\Access\Policy\Document;
use Fulcrion\Core\Access\Policy\Privilege;
use LogicException;

/**
 * Policies in force, as they were, and as they would be.
 */
final class PolicyStore
{
    /** @var array<string, Policy> */
    private array $made = [];

    /** @var array<int, Document> */
    private array $versions = [];

    public function __construct(private readonly AccessCatalogReader $world)
    {
    }

    public function latest(): ?PolicyVersion
    {
        /** @var PolicyVersion|null $latest */
        $latest = PolicyVersion::query()->orderByDesc('number')->first();

        return $latest;
    }

    public function number(): int
    {
        return $this->latest()->number ?? 0;
    }

    public function published(): Document
    {
        $latest = $this->latest();

        return $latest === null ? self::open() : $this->read($latest);
    }

    public function version(int $number): ?Document
    {
        $version = PolicyVersion::query()->find($number);

        return $version instanceof PolicyVersion ? $this->read($version) : ($number === 0 ? self::open() : null);
    }

    /** Before a first policy is published everybody who signs in may do what their role in the application allows. */
    private static function open(): Document
    {
        $document = Document::read([
            'grants' => [
                'everything' => [
                    'effect' => 'allow',
                    'privileges' => array_map(static fn (Privilege $p): string => $p->value, Privilege::cases()),
                    'on' => 'estate',
                    'to' => ['everyone'],
                    'reason' => 'until a first policy is published',
                ],
            ],
        ]);
        assert($document instanceof Document);

        return $document;
    }

    private function read(PolicyVersion $version): Document
    {
        // Versions never change, so each is read once a request.
        return $this->versions[$version->number] ??= self::parse($version);
    }

    private static function parse(PolicyVersion $version): Document
    {
        $document = Document::read((array) json_decode($version->document, true));

        return $document instanceof Document
            ? $document
            : throw new LogicException(
                "Version {$version->number} of the policy cannot be read: ".implode(' ', array_map(strval(...), $document)),
            );
    }

    /** Ready to decide, on the day it is. */
    public function compile(Document $document): Policy
    {
        $day = gmdate('Y-m-d', Clock::seconds());
        $key = $day.hash('xxh128', serialize($document->toArray()));
        if (count($this->made) > 8) {
            $this->made = [];
        }

        return $this->made[$key] ??= new Policy($document, $this->world->catalog(), $this->world->hierarchies($document, $day), $day);
    }

    public function forget(): void
    {
        $this->made = $this->versions = [];
        $this->world->forget();
    }
}
