<?php

declare(strict_types=1);

namespace App\Ledger\Http\Requests;

use App\Ledger\Models\Change;
use Illuminate\Foundation\Http\FormRequest;
use Illuminate\Support\Facades\Gate;
use Illuminate\Validation\Rule;

/**
 * What a form or a caller sends to ChangeController::choose().
 */
final class ChooseStatementsRequest extends FormRequest
{
    /** Before a word is said of the fields. */
    public function authorize(): bool
    {
        return Gate::allows('choose', $this->route('change'));
    }

    /**
     * @return list<int>
     */
    private function places(): array
    {
        $change = $this->route('change');

        return $change instanceof Change ? array_keys($change->kind()->places($change)) : [];
    }

    /**
     * @return array<string, mixed>
     */
    public function rules(): array
    {
        return [
            'statements' => ['required', 'array', 'max:25'],
            'statements.*' => ['string', 'regex:~^[0-9a-f]{32}$~'],
            'copy_share' => ['required', 'numeric', 'between:1,100'],
            'rehearse_on' => ['nullable', 'integer', Rule::in($this->places())],
        ];
    }

    /**
     * @return array<string, string>
     */
    public function messages(): array
    {
        return [
            'statements.required' => 'Choose at least one statement; without any there is nothing to compare.',
            'copy_share.between' => 'The share to copy is between 1 and 100 percent.',
            'rehearse_on.in' => 'Choose one of the servers in the list to rehearse on.',
        ];
    }
}
