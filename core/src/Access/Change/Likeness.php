<?php

declare(strict_types=1);

namespace Fulcrion\Core\Access\Change;

use Fulcrion\Core\Access\Policy\Document;
use Fulcrion\Core\Access\Policy\FieldType;
use Fulcrion\Core\Access\Policy\Kind;
use Fulcrion\Core\Access\Policy\Subject;

/**
 * Tells at a glance that people stand alike: the same roles and attributes, and no item names one of them. Who is not
 * told alike may still stand alike.
 */
final readonly class Likeness
{
    /** @var array<string, true> people items speak of by name */
    private array $named;

    public function __construct(private Document $document)
    {
        $named = [];
        foreach (Kind::cases() as $kind) {
            foreach ($kind->fields() as $field) {
                if ($field->type !== FieldType::Subject && $field->type !== FieldType::Subjects) {
                    continue;
                }
                foreach ($document->all($kind) as $item) {
                    foreach ($field->isList() ? $item->texts($field->name) : [$item->text($field->name)] as $subject) {
                        $named[$subject] = true;
                    }
                }
            }
        }
        $this->named = $named;
    }

    public function of(string $subject): string
    {
        $person = $this->document->find(Kind::People, Subject::split($subject)[1]);

        return hash(
            'xxh128',
            serialize([isset($this->named[$subject]) ? $subject : '', $person?->texts('roles'), $person?->map('attributes')]),
        );
    }
}
