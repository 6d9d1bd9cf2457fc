<?php

declare(strict_types=1);

namespace App\Access\Application;

use App\Platform\Models\User;
use App\Platform\Support\Role;
use Fulcrion\Core\Access\Catalog\TableEntry;
use Fulcrion\Core\Access\Decide\ColumnAccess;
use Fulcrion\Core\Access\Decide\Policy;
use Fulcrion\Core\Access\Decide\Sight;
use Fulcrion\Core\Access\Decide\StatementDecider;
use Fulcrion\Core\Access\Policy\Item;
use Fulcrion\Core\Access\Policy\Kind;
use Fulcrion\Core\Access\Policy\ObjectPath;
use Fulcrion\Core\Access\Policy\Subject;

/**
 * Data products as one reader finds them: only those with something for them, and in them only the views they may see.
 */
final readonly class Products
{
    public function __construct(private Policy $policy, private string $subject, private bool $all)
    {
    }

    public static function of(Policy $policy, User $user): self
    {
        return new self($policy, Decisions::subjectOf($user), in_array($user->role, [Role::Steward, Role::Owner], true));
    }

    /**
     * @return list<array{product: Item, views: list<array{table: TableEntry, columns: array<string, ColumnAccess>}>, hidden: int}>
     */
    public function visible(): array
    {
        $found = [];
        foreach ($this->policy->document->all(Kind::Products) as $product) {
            $one = $this->one($product);
            if ($this->all || ($product->flag('published') && ($one['views'] !== [] || $this->isAudience($product)))) {
                $found[] = $one;
            }
        }

        return $found;
    }

    private function isAudience(Item $product): bool
    {
        $roles = $this->policy->reader($this->subject)->roles;

        return array_filter($product->texts('audience'), static fn (string $role): bool => array_key_exists($role, $roles)) !== [];
    }

    /**
     * @return array{product: Item, views: list<array{table: TableEntry, columns: array<string, ColumnAccess>}>, hidden: int}
     */
    public function one(Item $product): array
    {
        $views = [];
        $hidden = 0;
        foreach ($product->texts('views') as $path) {
            $table = $this->policy->catalog->table($path);
            $columns =
                $table === null
                    ? []
                    : (new StatementDecider($this->policy, $this->policy->reader($this->subject), ObjectPath::parts($path)[0]))->columnsOf(
                        $table,
                    );
            $seen = array_filter(
                $columns,
                static fn (ColumnAccess $access): bool => in_array($access->sight, [Sight::Visible, Sight::Masked], true),
            );
            if ($table === null || $seen === []) {
                $hidden++;
            } else {
                $views[] = ['table' => $table, 'columns' => $seen];
            }
        }

        return ['product' => $product, 'views' => $views, 'hidden' => $hidden];
    }

    /**
     * The least grants a product needs for its audience: its views, never the tables below them.
     *
     * @return list<Item>
     */
    public static function grants(Policy $policy, Item $product): array
    {
        $needed = [];
        foreach ($product->texts('audience') as $role) {
            $reader = $policy->reader(Subject::role($role));
            foreach ($product->texts('views') as $path) {
                $schema = (string) ObjectPath::parent($path);
                foreach ([['use', $schema], ['select', $path]] as [$privilege, $on]) {
                    if ($reader->missing(\Fulcrion\Core\Access\Policy\Privilege::from($privilege), $on) !== null) {
                        $name = "{$privilege} {$on} for product {$product->name}";
                        $needed[$name]['on'] = $on;
                        $needed[$name]['privilege'] = $privilege;
                        $needed[$name]['to'][] = Subject::role($role);
                    }
                }
            }
        }
        $grants = [];
        foreach ($needed as $name => $one) {
            $item = Item::of(Kind::Grants, mb_strcut($name, 0, 190), [
                'effect' => 'allow',
                'privileges' => [$one['privilege']],
                'on' => $one['on'],
                'to' => array_values(array_unique($one['to'])),
                'reason' => "data product {$product->name}",
            ]);
            if ($item instanceof Item) {
                $grants[] = $item;
            }
        }

        return $grants;
    }
}
