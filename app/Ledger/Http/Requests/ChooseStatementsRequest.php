<?php

declare(strict_types=1);

namespace App\Ledger\Http\Requests;

use Illuminate\Foundation\Http\FormRequest;
use Illuminate\Support\Facades\Gate;

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
     * @return array<string, mixed>
     */
    public function rules(): array
    {
        return [
            'statements' => ['required', 'array', 'max:25'],
            'statements.*' => ['string', 'regex:~^[0-9a-f]{32}$~'],
            'copy_share' => ['required', 'numeric', 'between:1,100'],
        ];
    }

    /**
     * @return array<string, string>
     */
    public function messages(): array
    {
        return [
            'statements.required' => 'Choose at least one statement; without any there is nothing to compare.',
            'copy_share.between' => 'The share of the chunks to copy is between 1 and 100 percent.',
        ];
    }
}
