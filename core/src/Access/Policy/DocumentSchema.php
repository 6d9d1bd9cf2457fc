<?php

declare(strict_types=1);

namespace Fulcrion\Core\Access\Policy;

/**
 * The JSON Schema (2020-12) of a policy as it is written down.
 */
final readonly class DocumentSchema
{
    /**
     * @return array<string, mixed>
     */
    public static function toArray(): array
    {
        $sections = [];
        foreach (Kind::cases() as $kind) {
            $fields = $required = [];
            foreach ($kind->fields() as $field) {
                $fields[$field->name] = ['description' => $field->help] + self::type($field);
                if ($field->required) {
                    $required[] = $field->name;
                }
            }
            $item =
                ['type' => ['object', 'array'], 'properties' => $fields, 'additionalProperties' => false, 'maxItems' => 0] +
                ($required === [] ? [] : ['required' => $required, 'type' => 'object']);
            $sections[$kind->value] = [
                'description' => $kind->describe(),
                'type' => 'object',
                'propertyNames' => ['minLength' => 1, 'maxLength' => 190],
                'additionalProperties' => $item,
            ];
        }

        return [
            '$schema' => 'https://json-schema.org/draft/2020-12/schema',
            'title' => 'A policy of access',
            'type' => 'object',
            'required' => ['format'],
            'additionalProperties' => false,
            'properties' => ['format' => ['const' => Document::FORMAT]] + $sections,
        ];
    }

    /**
     * @return array<string, mixed>
     */
    private static function type(DocumentField $field): array
    {
        $text = match ($field->type) {
            FieldType::Choice, FieldType::Choices => ['type' => 'string', 'enum' => $field->choices],
            FieldType::Subject, FieldType::Subjects => ['type' => 'string', 'pattern' => '^(everyone|(role|person):\S.*)$'],
            FieldType::Day => ['type' => 'string', 'pattern' => '^\d{4}-\d{2}-\d{2}$'],
            FieldType::Ranges => ['type' => 'string', 'pattern' => '\.\.'],
            FieldType::Flag => ['type' => 'boolean'],
            FieldType::Count => ['type' => 'integer', 'minimum' => 0],
            FieldType::Texts => ['type' => ['string', 'number']],
            FieldType::Map => [
                'type' => ['object', 'array'],
                'maxItems' => 0,
                'additionalProperties' => [
                    'anyOf' => [
                        ['type' => ['string', 'number', 'boolean']],
                        ['type' => 'array', 'items' => ['type' => ['string', 'number', 'boolean']]],
                    ],
                ],
            ],
            default => ['type' => 'string'],
        };

        return $field->isList() ? ['type' => 'array', 'items' => $text] + ($field->required ? ['minItems' => 1] : []) : $text;
    }
}
