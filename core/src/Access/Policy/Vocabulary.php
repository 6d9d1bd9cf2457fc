<?php

declare(strict_types=1);

namespace Fulcrion\Core\Access\Policy;

/**
 * Label keys across a policy.
 */
final readonly class Vocabulary
{
    /**
     * Every place that names a key: labels that carry it and rules that ask for it.
     *
     * @return list<Item>
     */
    public static function uses(Document $document, string $key): array
    {
        $uses = array_values(array_filter($document->all(Kind::Labels), static fn (Item $label): bool => $label->text('key') === $key));
        foreach ($document->all(Kind::Rules) as $rule) {
            try {
                if (in_array($key, Condition::parse($rule->text('when'))->keys(), true)) {
                    $uses[] = $rule;
                }
            } catch (ConditionError) {
                // Says so elsewhere.
            }
        }

        return $uses;
    }

    /**
     * The policy with a key under another name everywhere: in the vocabulary, on objects, in conditions.
     */
    public static function rename(Document $document, string $from, string $to): Document
    {
        $entry = $document->find(Kind::Vocabulary, $from);
        if ($entry !== null) {
            $document = self::put($document->without(Kind::Vocabulary, $from), Kind::Vocabulary, $to, $entry->fields);
        }
        foreach (self::uses($document, $from) as $item) {
            if ($item->kind === Kind::Labels) {
                $document = self::put(
                    $document->without(Kind::Labels, $item->name),
                    Kind::Labels,
                    self::labelName($item->text('on'), $to),
                    ['key' => $to] + $item->fields,
                );
            } else {
                $quoted = "'".str_replace("'", "''", $from)."'";
                $document = self::put(
                    $document,
                    Kind::Rules,
                    $item->name,
                    ['when' => str_replace($quoted, "'".str_replace("'", "''", $to)."'", $item->text('when'))] + $item->fields,
                );
            }
        }

        return $document;
    }

    /** A label is named by where it is and its key, so that there is one of a key on an object. */
    public static function labelName(string $path, string $key): string
    {
        $name = "{$path} {$key}";

        return strlen($name) <= 190 ? $name : substr($name, 0, 157).' '.hash('xxh128', $name);
    }

    /**
     * @param  array<string, mixed>  $fields
     */
    private static function put(Document $document, Kind $kind, string $name, array $fields): Document
    {
        $item = Item::of($kind, $name, $fields);

        return $item instanceof Item ? $document->with($item) : $document;
    }
}
