<?php

declare(strict_types=1);

namespace Fulcrion\Core\Access\Policy;

/**
 * A whole policy as it is written down: items by kind and name. Changed by making a new one.
 */
final readonly class Document
{
    public const FORMAT = 'fulcrion-policy/1';

    /**
     * @param  array<string, array<string, Item>>  $items kind => name => item
     */
    private function __construct(private array $items)
    {
    }

    /**
     * @param  array<mixed>  $data as in toArray()
     * @return self|list<PolicyProblem>
     */
    public static function read(array $data): self|array
    {
        $problems = [];
        $items = [];
        foreach ($data as $section => $entries) {
            if ($section === 'format') {
                if ($entries !== self::FORMAT) {
                    $problems[] = new PolicyProblem(Kind::Settings, 'format', '', 'must be '.self::FORMAT);
                }

                continue;
            }
            $kind = Kind::tryFrom((string) $section);
            if ($kind === null) {
                $problems[] = new PolicyProblem(
                    Kind::Settings,
                    (string) $section,
                    '',
                    'is no section of a policy; there are '.
                        implode(', ', array_map(static fn (Kind $k): string => $k->value, Kind::cases())),
                );

                continue;
            }
            foreach (is_array($entries) ? $entries : [] as $name => $values) {
                $item = Item::of($kind, (string) $name, is_array($values) ? $values : []);
                if (is_array($item)) {
                    array_push($problems, ...$item);
                } else {
                    $items[$kind->value][$item->name] = $item;
                }
            }
        }

        return $problems === [] ? new self($items) : $problems;
    }

    /**
     * @return array<string, Item>
     */
    public function all(Kind $kind): array
    {
        return $this->items[$kind->value] ?? [];
    }

    public function find(Kind $kind, string $name): ?Item
    {
        return $this->items[$kind->value][$name] ?? null;
    }

    public function with(Item ...$added): self
    {
        $items = $this->items;
        foreach ($added as $item) {
            $items[$item->kind->value][$item->name] = $item;
        }

        return new self($items);
    }

    public function without(Kind $kind, string $name): self
    {
        $items = $this->items;
        unset($items[$kind->value][$name]);

        return new self($items);
    }

    public function setting(string $name, string $default): string
    {
        return $this->find(Kind::Settings, $name)?->text('value', $default) ?? $default;
    }

    public function size(): int
    {
        return array_sum(array_map(count(...), $this->items));
    }

    /**
     * @return list<ItemChange> in the order of kinds and names
     */
    public function changesTo(self $other): array
    {
        $changes = [];
        foreach (Kind::cases() as $kind) {
            $before = $this->all($kind);
            $after = $other->all($kind);
            $names = array_map(strval(...), array_keys($before + $after));
            sort($names, SORT_STRING);
            foreach ($names as $name) {
                $old = $before[$name] ?? null;
                $new = $after[$name] ?? null;
                if ($old === null || $new === null || ! $old->same($new)) {
                    $changes[] = new ItemChange($kind, $name, $old, $new);
                }
            }
        }

        return $changes;
    }

    /**
     * Always the same for the same policy: kinds and fields in their order, names in the order of the alphabet.
     *
     * @return array<string, string|array<string, array<string, mixed>>>
     */
    public function toArray(): array
    {
        $data = ['format' => self::FORMAT];
        foreach (Kind::cases() as $kind) {
            $items = $this->all($kind);
            if ($items !== []) {
                ksort($items, SORT_STRING);
                $data[$kind->value] = array_map(static fn (Item $item): array => $item->fields, $items);
            }
        }

        return $data;
    }
}
